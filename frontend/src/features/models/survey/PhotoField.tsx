import { useState } from "react";
import { isProblem, sendPhoto } from "@/api/client";

export interface PhotoFieldProps {
  photos: string[];
  onChange: (photos: string[]) => void;
  /** What the photo is of. */
  of: string;
}

/** Photos that show what is written, from a camera or a file: sent at once, kept without their metadata, shown as kept. */
export function PhotoField({ photos, onChange, of }: PhotoFieldProps) {
  const [fault, setFault] = useState<string | null>(null);
  const send = async (file: File | undefined): Promise<void> => {
    if (!file) return;
    setFault(null);
    try {
      const stored = await sendPhoto(file);
      onChange([...new Set([...photos, stored.digest])]);
    } catch (error) {
      setFault(isProblem(error) ? error.message : "the photo could not be sent");
    }
  };
  return (
    <div className="flex min-w-0 flex-wrap items-center gap-2">
      {photos.map((photo) => (
        <figure key={photo} className="relative m-0">
          <a href={`/api/v1/photos/${photo}.png`} target="_blank" rel="noreferrer">
            <img
              src={`/api/v1/photos/${photo}.png`}
              alt={`${of}, as photographed`}
              className="h-14 w-20 border border-rule object-cover"
            />
          </a>
          <button
            type="button"
            className="block min-h-[24px] text-[0.86rem] text-short underline"
            onClick={() => onChange(photos.filter((other) => other !== photo))}
          >
            leave out<span className="sr-only"> photo {photo.slice(0, 6)}</span>
          </button>
        </figure>
      ))}
      <label className="cursor-pointer border border-dashed border-ink px-2 py-1 text-[0.93em] font-semibold focus-within:outline-2">
        Photo of {of}
        <input
          type="file"
          accept="image/png,image/jpeg"
          capture="environment"
          className="sr-only"
          onChange={(event) => void send(event.target.files?.[0])}
        />
      </label>
      {fault && (
        <p role="alert" className="font-semibold text-short">
          {fault}
        </p>
      )}
    </div>
  );
}

import { useState } from "react";
import { isProblem, sendPhoto } from "@/api/client";

export interface PhotoFieldProps {
  photos: string[];
  onChange: (photos: string[]) => void;
  /** What the photo is of, where a plain "Photo" would not say it. */
  of?: string;
}

/** Photos that show what is written: sent at once, kept without their metadata, named by the page. */
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
    <div className="min-w-0">
      <label className="block text-[0.93em] font-semibold">
        {of ? `Photo of ${of}` : "Photo"}, PNG or JPEG
        <input
          type="file"
          accept="image/png,image/jpeg"
          className="block w-full text-[0.86rem] font-normal"
          onChange={(event) => void send(event.target.files?.[0])}
        />
      </label>
      {fault && <p className="font-semibold text-short">{fault}</p>}
      {photos.map((photo) => (
        <button
          key={photo}
          type="button"
          className="mr-2 text-[0.9rem] text-accent underline"
          onClick={() => onChange(photos.filter((other) => other !== photo))}
        >
          remove photo {photo.slice(0, 6)}
        </button>
      ))}
    </div>
  );
}

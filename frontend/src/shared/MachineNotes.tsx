import type { Schemas } from "@/api/client";
import { day } from "@/lib/format";

type Note = Schemas["MachineNoteView"];

interface NotesProps {
  notes: Note[];
  /** Left out where nothing can be mended here. */
  onMended?: (note: Note) => void;
}

/** What an earlier job left with this machine, until one mends it. */
export function MachineNotes({ notes, onMended }: NotesProps) {
  if (notes.length === 0) return null;
  return (
    <section className="mt-3" aria-label="Known of this machine">
      <h3 className="border-b border-rule text-[1.15rem]">Known of this machine</h3>
      <ul>
        {notes.map((note) => (
          <li key={note.key} className="border-b border-dotted border-rule py-1">
            {note.words || "a photo"}{" "}
            <span className="text-soft">
              {day(note.day)}, job {note.job_id}
              {note.author ? `, ${note.author}` : ""}
            </span>
            {note.photo && (
              <a className="ml-2 text-accent underline" href={`/api/v1/photos/${note.photo}.png`}>
                photo
              </a>
            )}
            {onMended && (
              <button
                type="button"
                className="ml-3 min-h-[25px] text-accent underline"
                aria-label={`Mended: ${note.words}`}
                onClick={() => onMended(note)}
              >
                mended
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

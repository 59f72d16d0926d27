import { useSyncExternalStore } from "react";
import { onComing, theComing } from "@/api/answers";
import { moment } from "@/lib/format";

/** Says when the figures on the page were made, while newer ones are being computed; and how far the first ones are. */
export function Freshness() {
  const { madeAt, first } = useSyncExternalStore(onComing, theComing);
  const words = first ? progress(first) : madeAt ? `figures of ${moment(madeAt)}; newer ones are being computed` : "";
  return (
    <p role="status" className="truncate text-thin" title={words}>
      {words}
    </p>
  );
}

function progress({ words, done, of, waiting }: { words: string; done: number; of: number; waiting: number }): string {
  const far = of > 1 ? `, ${done} of ${of}` : "";
  const behind = waiting > 1 ? `; ${waiting - 1} more waiting` : "";
  return `being computed: ${words}${far}${behind}`;
}

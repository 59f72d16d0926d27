import { useState } from "react";
import { day, plural } from "@/lib/format";
import { Sheet } from "@/ui/Sheet";
import { useBooks } from "./stores.queries";

const RULES: Record<string, string> = {
  balance: "moves against balances",
  under_way: "transfers against what is under way",
  promised: "promises against shelves",
  received: "receipts against orders",
  on_the_shelf: "receipts against shelves",
  fitted: "the log against shelves",
};

/** Whether the books add up, for leads: a line, and what does not as a sheet. Nothing is said before it was looked at. */
export function Books() {
  const [shown, setShown] = useState(false);
  const books = useBooks();
  if (!books.data) return null;
  const { as_of, breaks } = books.data;
  if (breaks.length === 0) {
    return <p className="px-4 text-[0.93rem] text-soft">The books add up, looked at on {day(as_of)}.</p>;
  }
  return (
    <p className="px-4 font-semibold text-short">
      The books do not add up:{" "}
      <button type="button" className="min-h-[24px] underline" onClick={() => setShown(true)}>
        {plural(breaks.length, "place")}
      </button>
      <Sheet
        open={shown}
        onClose={() => setShown(false)}
        title="Where the books do not add up"
        about={`Looked at on ${day(as_of)}. Count the shelf, or undo what was booked wrongly; if neither helps, tell whoever runs the almanac.`}
      >
        <table className="w-full font-normal text-ink">
          <tbody>
            {breaks.map((item) => (
              <tr
                key={`${item.check}${item.part}${item.place}`}
                className="border-b border-dotted border-rule align-top"
              >
                <td className="code py-0.5 pr-3">{item.part}</td>
                <td className="code pr-3">{item.place}</td>
                <td>
                  {item.words} <span className="text-soft">({RULES[item.check] ?? item.check})</span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Sheet>
    </p>
  );
}

import type { Schemas } from "@/api/client";
import { money } from "@/lib/format";
import { useOptions } from "./bench.queries";
import type { Job } from "./local";

type Options = Schemas["OptionsView"];

const NAMES: Record<string, string> = {
  repair: "Repair it",
  replace: "Replace it",
  harvest: "Replace it and harvest",
};

/** Repair, replace, harvest: costed side by side with the company's settings, as options. Data are counted apart. */
export function OptionsTable({ job, currency }: { job: Job; currency: string }) {
  const options = useOptions(job.id);
  if (!options.data) return null;
  const { choices, remaining_value: left, assumed } = options.data;
  return (
    <section className="mt-4" aria-label="Repair, replace or harvest">
      <h3 className="flex items-baseline justify-between border-b border-ink text-[1.15rem]">
        Repair, replace or harvest
        <span className="font-sans text-[0.95rem] font-normal text-soft">
          {money(Math.round(left), currency)} of its value left
        </span>
      </h3>
      <div className="mt-1 grid grid-cols-3 gap-5 max-[1100px]:grid-cols-1">
        {choices.map((choice) => (
          <table key={choice.name} className="w-full self-start">
            <caption className="text-left font-semibold">{NAMES[choice.name]}</caption>
            <tbody>
              {choice.lines.map((line) => (
                <tr key={line.words} className="border-b border-dotted border-rule">
                  <td className="pr-2">{line.words}</td>
                  <td className="text-right whitespace-nowrap">
                    {line.amount === null ? "not known" : money(Math.round(line.amount), currency)}
                  </td>
                </tr>
              ))}
              <tr className="font-semibold">
                <td>in all</td>
                <td className="text-right whitespace-nowrap">
                  {choice.total === null
                    ? `at least ${money(Math.round(choice.least), currency)}`
                    : money(Math.round(choice.total), currency)}
                </td>
              </tr>
            </tbody>
          </table>
        ))}
      </div>
      <p className="mt-1 text-soft">
        {sentence(options.data)} Data are counted apart.
        {assumed.length > 0 && ` Assumed until the company says: ${assumed.join("; ")}.`}
      </p>
    </section>
  );
}

/** What the ratio is a reason for, as far as anybody can say. */
function sentence({ ratio, remaining_value: left, talk, talk_ratio: limit, unpriced }: Options): string {
  if (left <= 0) return "Nothing is left of its value: a reason to talk, not a verdict.";
  const missing = `nobody knows a price for ${unpriced.join(", ")}`;
  if (ratio === null)
    return talk
      ? `What is known of the repair is a reason to talk already; ${missing}.`
      : `Cannot say yet what the repair costs: ${missing}.`;
  const words = talk ? `: from ${Math.round(limit * 100)}% a reason to talk, not a verdict` : "";
  return `Repair costs ${Math.round(ratio * 100)}% of what is left of its value${words}.`;
}

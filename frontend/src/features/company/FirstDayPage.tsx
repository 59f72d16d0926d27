import { Link } from "react-router";
import { FailedToRead } from "@/ui/FailedToRead";
import { Waiting } from "@/ui/Notice";
import { useFirstDay } from "./company.queries";

const STANDS: Record<string, { word: string; look: string }> = {
  done: { word: "told", look: "text-covered" },
  partly: { word: "in part", look: "text-thin" },
  open: { word: "open", look: "text-soft" },
};

const DOES: Record<string, { act: string; why: string }> = {
  machines: {
    act: "Take the machine list",
    why: "The asset list as you have it. New sites and models are asked once; a model takes a sentence: 1 battery, 1 fan, 1 SSD, 2 memory slots.",
  },
  parts: {
    act: "Take the parts or shelf list",
    why: "Numbers, prices, suppliers and counts. A column that says which models a part fits saves the most work.",
  },
  holds: {
    act: "Look at the machine list again",
    why: "The same list, once parts are known: new machines hold what their model is delivered with. Of machines older than their site's log nobody knows since when: their parts count at every age they may have.",
  },
  log: {
    act: "Take the tickets",
    why: "The help desk's export with its own words. What no word tells is asked once for all that say the same; findings enter open.",
  },
  sites: {
    act: "Look at the sites",
    why: "An empty log is not years without a failure: figures count from the day repairs are written down. How the depot supplies others is set in Stores.",
  },
  rules: {
    act: "Choose on the Outlook",
    why: "What is promised decides what is kept. It can be changed on any day, and stays on record.",
  },
  order: {
    act: "See what is to be ordered",
    why: "The Outlook names what to order and by which day, or what it still lacks to say so.",
  },
};

/** From nothing to the first order: what is told, what is lacking, and where to go on. Every step can be left for later. */
export default function FirstDayPage() {
  const found = useFirstDay();
  if (found.isError) {
    return <FailedToRead title="Not to be seen" query={found} />;
  }
  if (!found.data) return <Waiting what="Reading what is told" />;
  const { steps } = found.data;
  const next = steps.find((step) => step.stand === "open") ?? steps.find((step) => step.stand === "partly");
  return (
    <div className="min-h-0 flex-1 overflow-auto p-4">
      <h1 className="text-[1.75rem]">First day</h1>
      <p className="mt-1 max-w-[70ch] font-serif text-[1.15rem] leading-snug">
        From nothing to the first order, in the order in which it helps. Any step can be left for later: figures then
        say how wide that leaves them.{" "}
        <Link className="text-accent underline" to="/glossary">
          Words
        </Link>{" "}
        are explained.
      </p>
      <ol className="mt-4 max-w-[980px]">
        {steps.map((step, place) => {
          const does = DOES[step.name];
          const stand = STANDS[step.stand];
          return (
            <li
              key={step.name}
              className={`grid grid-cols-[2rem_1fr_auto] gap-x-3 border-b border-rule py-2 ${step === next ? "bg-pick" : ""}`}
            >
              <span className="pl-2 font-serif text-[1.3rem] leading-none">{place + 1}</span>
              <div>
                <h2 className="font-sans text-[1.05rem] font-semibold">{step.what}</h2>
                <p>
                  <span className={`font-semibold ${stand?.look}`}>{stand?.word}</span>: {step.said}
                  {step.lacks && <span className="text-thin">; {step.lacks}</span>}
                </p>
                <p className="max-w-[72ch] text-[0.93rem] text-soft">{does?.why}</p>
              </div>
              <Link className="self-center pr-2 text-accent underline" to={step.goes_to}>
                {does?.act}
              </Link>
            </li>
          );
        })}
      </ol>
    </div>
  );
}

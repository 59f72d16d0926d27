import { Link } from "react-router";

interface Stop {
  to: string;
  where: string;
  look: string;
}

const STOPS: Stop[] = [
  {
    to: "/outlook",
    where: "Outlook",
    look: "The sentence on top says what is to be done today, and for whom somebody waits. Below, a row a part: how many fail, what lies there, when an order is due. On the right, today's orders by supplier and what to load.",
  },
  {
    to: "/outlook/OB-P14-60",
    where: "One part",
    look: "Its plate: the year as the rule would make it, demand by month, one part more or less. Under Working stands every figure with the log entries it rests on.",
  },
  {
    to: "/outlook/money",
    where: "Money",
    look: "What the sum tied up in spare parts buys in machine-days not lost. Move the point, and see what another sum would mean for the shelves of today.",
  },
  {
    to: "/models",
    where: "Models",
    look: "A page of a machine: the plan layer by layer, what fits where, and the route to a part with what has to come off first and what can hurt.",
  },
  {
    to: "/bench",
    where: "Bench",
    look: "A job from the complaint to the closed record: gates, one step at a time, every screw in its tray, and nothing closed while anything is out.",
  },
  {
    to: "/stores",
    where: "Stores",
    look: "One stroke a part, against the level it is kept at. Transfers, counts, arrivals, people who wait.",
  },
  {
    to: "/ledger",
    where: "Ledger",
    look: "What failed, and was it really that part: findings still open stand first. A correction is a new entry, nothing is erased.",
  },
  {
    to: "/rates/battery",
    where: "Rates",
    look: "How parts of a kind die, with the lives behind it; what is believed before the log tells; how well past quarters were forecast.",
  },
  {
    to: "/import/lists",
    where: "Lists",
    look: "How a company's own files get in, and are held against the record month after month.",
  },
];

/** Five minutes through the product, in the order of a lead's morning. */
export default function TourPage() {
  return (
    <div className="min-h-0 flex-1 overflow-auto p-4">
      <h1 className="text-[1.75rem]">A tour in five minutes</h1>
      <p className="mt-1 max-w-[70ch] text-soft">
        In the order of a lead's morning. The keys 1 to 6 lead to the tabs from anywhere,{" "}
        <span className="code">/</span> to the find field;{" "}
        <Link className="text-accent underline" to="/glossary">
          words
        </Link>{" "}
        are explained.
      </p>
      <ol className="mt-3 max-w-[900px]">
        {STOPS.map(({ to, where, look }, place) => (
          <li key={to} className="grid grid-cols-[2rem_8rem_1fr] gap-x-3 border-b border-dotted border-rule py-2">
            <span className="font-serif text-[1.3rem] leading-none">{place + 1}</span>
            <Link className="font-semibold text-accent underline" to={to}>
              {where}
            </Link>
            <span className="max-w-[64ch]">{look}</span>
          </li>
        ))}
      </ol>
    </div>
  );
}

/** The thumb index. A digit belongs to its tab for good; a tab that is not there yet leaves its digit free. */
export const TABS = [
  { digit: "1", name: "Outlook", path: "/outlook" },
  { digit: "2", name: "Models", path: "/models" },
  { digit: "3", name: "Bench", path: "/bench" },
  { digit: "4", name: "Stores", path: "/stores" },
  { digit: "5", name: "Ledger", path: "/ledger" },
  { digit: "6", name: "Rates", path: "/rates" },
  { digit: "7", name: "Fleet", path: "/fleet" },
] as const;

/** Pages that belong to a tab under another address. */
export const ALSO: Record<string, string> = { "/machines": "/fleet", "/today": "/outlook" };

export const KEYS: [string, string][] = [
  [TABS.map((tab) => tab.digit).join(", "), `turn to ${TABS.map((tab) => tab.name).join(", ")}`],
  ["d", "what is due today"],
  ["/", "find a part number, pack, tag, model, site, order or page"],
  ["↑ ↓", "walk the index"],
  ["Enter", "open what is marked"],
  ["w", "open or close the working"],
  ["t", "figures as tables and back"],
  ["n", "record an incident"],
  ["j", "at the bench: open a job"],
  ["Space", "at the bench: this step is done"],
  ["Backspace", "at the bench: one step back"],
  ["r", "on a model: show the route to the part chosen"],
  ["f", "on a model: what fits the part chosen"],
  ["← → ↑ ↓", "on the plan: walk parts, screws and plugs"],
  ["?", "this list"],
  ["Esc", "close, or leave a field"],
];

/** The thumb index. A digit belongs to its tab for good; a tab that is not there yet leaves its digit free. */
export const TABS = [
  { digit: "1", name: "Outlook", path: "/outlook" },
  { digit: "5", name: "Ledger", path: "/ledger" },
] as const;

export const KEYS: [string, string][] = [
  ["1, 5", "turn to Outlook, Ledger"],
  ["/", "find a part number, pack, tag or model"],
  ["↑ ↓", "walk the index"],
  ["Enter", "open what is marked"],
  ["w", "open or close the working"],
  ["t", "figures as tables and back"],
  ["n", "record an incident"],
  ["?", "this list"],
  ["Esc", "close, or leave a field"],
];

/** Words of the product, each in a sentence or two; those a storeroom uses come first. */
export const WORDS: { word: string; means: string }[] = [
  {
    word: "order at",
    means:
      "The reorder point s: an order leaves at a review once what is there and coming, less what is promised, is at or below it.",
  },
  { word: "at most", means: "What there is of a part right after an order: the reorder point and the lot together." },
  {
    word: "position",
    means:
      "On the shelf and on order, less what somebody waits for or what is kept for a job. Orders look at it, not at the shelf.",
  },
  {
    word: "requests met",
    means:
      "Of a hundred times somebody asks for a part, how often one lies on that shelf. The promise is stated in it.",
  },
  {
    word: "review",
    means: "The days on which orders may leave, such as every fourteen days. Between two reviews nothing is ordered.",
  },
  {
    word: "lead time",
    means: "Days from an order to its parts. It begins as the supplier states it, and its deliveries teach it.",
  },
  { word: "lane", means: "How the depot supplies a site: days under way, and when a boat, van or parcel leaves." },
  { word: "lot, pack", means: "As many as are ordered at once; whole packs, at least the supplier's minimum." },
  {
    word: "position of a machine",
    means: "A place that takes a part: left fan, memory slot A. A page of the model names them.",
  },
  {
    word: "tenure",
    means:
      "A part in a position of a machine from one day to another. Failures are counted against the time of all tenures.",
  },
  {
    word: "log began",
    means:
      "The day since which every repair at a site is written down. What failed before is not known, and is not counted as no failure.",
  },
  {
    word: "incident",
    means: "Something happened to a part of a machine: what was noticed, what was done, and the finding.",
  },
  {
    word: "finding",
    means:
      "What it turned out to be: confirmed failure, damage, dead on arrival, no fault found, upgrade, preventive, or still open.",
  },
  {
    word: "open finding",
    means:
      "Nobody proved it yet. It counts by the share of settled findings of its kind that were failures, with the range shown.",
  },
  {
    word: "pool",
    means:
      "Parts alike in machines alike: a part number, a model, how it is used, the air. Pools borrow from each other where they know little.",
  },
  {
    word: "wear-out",
    means: "Failures come more often with age. Beside it stands one constant rate; the log says how much each carries.",
  },
  { word: "fade", means: "What a pack can still hold, falling from reading to reading until it is worn." },
  {
    word: "band",
    means:
      "From low to high, with nine chances in ten. A wide band says that little is known, not that much will fail.",
  },
  { word: "waived", means: "A check that a lead let go, with the reason. It is not a passed one, anywhere." },
  {
    word: "as delivered",
    means: "What a machine holds since its first day, taken for certain only where the log covers its whole life.",
  },
];

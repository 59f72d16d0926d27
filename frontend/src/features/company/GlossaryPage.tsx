import { WORDS } from "./words";

/** The words of the product, each in a sentence. */
export default function GlossaryPage() {
  return (
    <div className="min-h-0 flex-1 overflow-auto p-4">
      <h1 className="text-[1.75rem]">Words</h1>
      <dl className="mt-3 grid max-w-[1180px] gap-x-10 lg:grid-cols-2">
        {WORDS.map(({ word, means }) => (
          <div key={word} className="border-b border-dotted border-rule py-1.5">
            <dt className="font-semibold">{word}</dt>
            <dd className="text-soft">{means}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}

import { Button } from "@/ui/Button";
import type { Bench } from "./useBench";

/** Somebody else has the job in hand, or an entry was refused: said where it is written. */
export function TakenNotice({ bench }: { bench: Bench }) {
  const words = bench.taken ? [bench.taken] : bench.refused;
  if (words.length === 0) return null;
  return (
    <div role="alert" className="col-span-full border-l-4 border-thin bg-pick p-3">
      {words.map((line) => (
        <p key={line}>{line}</p>
      ))}
      <Button className="mt-2" onClick={() => (bench.taken ? void bench.takeOver() : bench.forgetRefusal())}>
        {bench.taken ? "Take it over" : "Understood"}
      </Button>
    </div>
  );
}

import { useEffect, useState } from "react";
import { TouchButton } from "@/ui/Touch";

export interface TimerProps {
  /** Names the timer in this browser, so that it goes on where the page was read again. */
  name: string;
  unit: "s" | "min";
  act: string;
  onTime: (value: number) => void;
}

const begun = (name: string): number | null => Number(localStorage.getItem(name)) || null;

/** A timer of the screen: what has passed fills the answer, and it runs on through a reload. */
export function Timer({ name, unit, act, onTime }: TimerProps) {
  const [start, setStart] = useState<number | null>(() => begun(name));
  const [now, setNow] = useState(() => Date.now());
  const seconds = start ? Math.max(Math.floor((now - start) / 1000), 0) : 0;
  const value = unit === "s" ? seconds : Math.floor((seconds / 60) * 10) / 10;
  useEffect(() => {
    if (!start) return;
    const tick = setInterval(() => setNow(Date.now()), 250);
    return () => clearInterval(tick);
  }, [start]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is told depends on the time alone
  useEffect(() => {
    if (start) onTime(value);
  }, [value, start]);
  const again = (): void => {
    const moment = Date.now();
    localStorage.setItem(name, String(moment));
    setStart(moment);
    setNow(moment);
  };
  const shown =
    unit === "s" ? `${seconds} s` : `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")} min`;
  return (
    <p className="flex flex-wrap items-center gap-3">
      <TouchButton onClick={again}>{start ? `${act} again` : act}</TouchButton>
      {start !== null && (
        <strong role="timer" className="code text-[1.3rem]">
          {shown}
        </strong>
      )}
    </p>
  );
}

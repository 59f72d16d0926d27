import { Link } from "react-router";
import { counted, figure, monthName, plural } from "@/lib/format";
import { alarmPath, useAlarms } from "@/shared/useAlarms";

const NAMED = 2;

/** While an alarm is open: what runs ahead, by how much, since when. */
export function AlarmStrip() {
  const alarms = useAlarms();
  const open = alarms.data?.open ?? [];
  if (alarms.isError)
    return <p className="text-thin">Whether failures run ahead cannot be said: {alarms.error.message}.</p>;
  if (!open.length) return null;
  return (
    <div className="mt-2 max-w-[70ch] border-l-4 border-short bg-pick px-3 py-1.5">
      <ul aria-label="Open alarms">
        {open.slice(0, NAMED).map((line) => (
          <li key={line.chart}>
            <Link className="text-accent underline" to={alarmPath(line.chart)}>
              {line.title}
            </Link>
            {line.alarm && (
              <>
                : <strong>{counted(line.alarm.observed)} failed</strong> of {figure(line.units)},{" "}
                {figure(line.alarm.expected, 1)} expected, since {monthName(line.alarm.since)}{" "}
                {line.alarm.since.slice(0, 4)}
              </>
            )}
          </li>
        ))}
      </ul>
      {open.length > NAMED && (
        <Link className="text-accent underline" to="/rates/alarms">
          and {plural(open.length - NAMED, "more alarm")}
        </Link>
      )}
    </div>
  );
}

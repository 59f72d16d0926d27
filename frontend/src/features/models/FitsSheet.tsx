import { useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { money } from "@/lib/format";
import { GRADE_NAMES, VERDICT_NAMES } from "@/lib/words";
import { Sheet } from "@/ui/Sheet";
import type { ModelPageData, PositionDetail } from "./models.queries";
import { useFits } from "./models.queries";

const TONES: Record<string, string> = { yes: "text-covered", unknown: "text-thin", no: "text-short" };

/** For a position, every stock part of its kind with its verdict and the reason. */
export function FitsSheet({
  page,
  position,
  onClose,
}: {
  page: ModelPageData;
  position: PositionDetail;
  onClose: () => void;
}) {
  const fits = useFits(page.model_id, position.key);
  const session = useOutletContext<Schemas["SessionState"]>();
  return (
    <Sheet
      open
      onClose={onClose}
      title={`What fits: ${position.label}`}
      about={`${page.maker} ${page.name}. Takes ${position.takes || "nothing that is recorded yet"}.`}
      wide
    >
      {fits.isError && <p className="text-short">{fits.error.message}</p>}
      {fits.data?.parts.length === 0 && <p className="text-soft">The catalogue holds no part of this kind.</p>}
      {fits.data && fits.data.parts.length > 0 && (
        <table className="w-full text-[0.95rem]">
          <thead>
            <tr className="border-b border-ink">
              <th scope="col" className="py-1">
                Part
              </th>
              <th scope="col">Verdict</th>
              <th scope="col">Reason</th>
              <th scope="col" className="w-[70px] text-right">
                On hand
              </th>
              <th scope="col" className="w-[80px] text-right">
                Price
              </th>
            </tr>
          </thead>
          <tbody>
            {fits.data.parts.map((fit) => (
              <tr key={fit.part_number} className="border-b border-dotted border-rule align-baseline">
                <th scope="row" className="py-1 pr-3 font-normal">
                  <span className="code font-semibold">{fit.part_number}</span>
                  <span className="block text-soft">{fit.part_name}</span>
                </th>
                <td className={`pr-3 font-semibold whitespace-nowrap ${TONES[fit.verdict]}`}>
                  {VERDICT_NAMES[fit.verdict]}
                </td>
                <td className="pr-3">
                  {fit.reason}
                  {fit.practice && <span className="block text-thin">In practice: {fit.practice}</span>}
                  {fit.speed && fit.verdict !== "no" && <span className="block text-soft">Runs at {fit.speed}</span>}
                  <span className="block text-soft">
                    {fit.origin === "listed" ? "listed by a person" : "computed"}
                    {fit.grade && `, weakest evidence: ${GRADE_NAMES[fit.grade]}`}
                  </span>
                </td>
                <td className="text-right">{fit.on_hand}</td>
                <td className="text-right whitespace-nowrap">{money(Number(fit.price), session.currency)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {fits.data && fits.data.beside.length > 0 && (
        <p className="mt-3">
          <strong>Have beside it:</strong> {fits.data.beside.join(", ")}.
        </p>
      )}
      {fits.data?.claims.map((claim) => (
        <p key={claim} className="mt-2 text-soft">
          {claim}
        </p>
      ))}
    </Sheet>
  );
}

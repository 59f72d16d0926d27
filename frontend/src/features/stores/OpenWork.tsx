import { useState } from "react";
import { useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { shortDay } from "@/lib/format";
import { Button } from "@/ui/Button";
import { Claims, Retiring } from "./Claims";
import { Loading } from "./Loading";
import { ProblemFoot } from "./ProblemFoot";
import { type Tally, type Transfer, useSettleCount, useTransferAct } from "./stores.queries";
import { TopUps } from "./TopUps";
import { ArriveSheet, UnpackSheet } from "./TransferSheets";

export interface OpenWorkProps {
  tally: Tally;
  session: Schemas["SessionState"];
  onOpen: (number: string, site: string) => void;
}

/** What waits in the stores until a shelf is chosen: transfers under way, and counts for a lead. */
export function OpenWork({ tally, session, onOpen }: OpenWorkProps) {
  const [asked, setAsked] = useSearchParams();
  const scanned = tally.transfers.find((transfer) => String(transfer.id) === asked.get("arrive")) ?? null;
  const [chosen, setArriving] = useState<Transfer | null>(null);
  const [unpacking, setUnpacking] = useState<Transfer | null>(null);
  const act = useTransferAct();
  const may = session.user?.role !== "reader";
  const arriving = chosen ?? (may ? scanned : null);
  const close = (): void => {
    setArriving(null);
    if (scanned) setAsked({}, { replace: true });
  };
  return (
    <article className="p-4">
      <h2 className="text-[1.4rem]">Under way and to settle</h2>
      <p className="text-soft">Choose a shelf to see its lots, its moves, and what can be done with it.</p>
      {tally.transfers.length === 0 ? (
        <p className="mt-4">No transfer is packed or under way.</p>
      ) : (
        <table className="mt-4 w-full">
          <caption className="border-b border-ink pb-0.5 text-left font-semibold">Transfers</caption>
          <tbody>
            {tally.transfers.map((transfer) => (
              <tr key={transfer.id} className="border-b border-dotted border-rule">
                <td className="py-1">
                  <button
                    type="button"
                    className="text-left hover:underline"
                    onClick={() => onOpen(transfer.part_number, transfer.to_site)}
                  >
                    {transfer.quantity} {transfer.part_name}
                  </button>
                  <span className="block text-[0.93rem] text-soft">
                    {transfer.from_site} to {transfer.to_site},{" "}
                    {transfer.left_on === null
                      ? `packed ${shortDay(transfer.packed_on)}`
                      : `left ${shortDay(transfer.left_on)}${transfer.due_on ? `, due ${shortDay(transfer.due_on)}` : ""}`}
                  </span>
                </td>
                <td className="text-right whitespace-nowrap">
                  {may && transfer.left_on === null && (
                    <>
                      <Button
                        look="quiet"
                        className="py-0!"
                        onClick={() =>
                          act.mutate({
                            id: transfer.id,
                            act: "send",
                            expected_version: transfer.version,
                            quantity: 0,
                            reason: "",
                          })
                        }
                      >
                        Left
                      </Button>
                      <Button look="quiet" className="py-0!" onClick={() => setUnpacking(transfer)}>
                        Unpack
                      </Button>
                    </>
                  )}
                  {may && (
                    <Button look="quiet" className="py-0!" onClick={() => setArriving(transfer)}>
                      Arrived
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
          <ProblemFoot error={act.error} />
        </table>
      )}
      <Counts tally={tally} mayApprove={session.user?.role === "lead"} onOpen={onOpen} />
      <Loading tally={tally} may={may} onOpen={onOpen} />
      <TopUps tally={tally} may={may} />
      <Claims />
      <Retiring />
      {arriving && <ArriveSheet transfer={arriving} onClose={close} />}
      {unpacking && <UnpackSheet transfer={unpacking} onClose={() => setUnpacking(null)} />}
    </article>
  );
}

function Counts({ tally, mayApprove, onOpen }: { tally: Tally; mayApprove: boolean; onOpen: OpenWorkProps["onOpen"] }) {
  const settle = useSettleCount();
  if (tally.counts.length === 0) return null;
  return (
    <table className="mt-5 w-full">
      <caption className="border-b border-ink pb-0.5 text-left font-semibold">Counts that wait for a lead</caption>
      <tbody>
        {tally.counts.map((count) => (
          <tr key={count.id} className="border-b border-dotted border-rule">
            <td className="py-1">
              <button
                type="button"
                className="text-left hover:underline"
                onClick={() => onOpen(count.part_number, count.site)}
              >
                {count.part_name} at {count.site}
              </button>
              <span className="block text-[0.93rem] text-soft">
                {count.booked} booked, {count.counted} counted on {shortDay(count.counted_on)} by{" "}
                {count.author ?? "nobody named"}: {count.reason}
              </span>
            </td>
            <td className="text-right whitespace-nowrap">
              {mayApprove && (
                <>
                  <Button look="quiet" className="py-0!" onClick={() => settle.mutate({ id: count.id, approve: true })}>
                    Book it
                  </Button>
                  <Button
                    look="quiet"
                    className="py-0!"
                    onClick={() => settle.mutate({ id: count.id, approve: false })}
                  >
                    Refuse
                  </Button>
                </>
              )}
            </td>
          </tr>
        ))}
      </tbody>
      <ProblemFoot error={settle.error} />
    </table>
  );
}

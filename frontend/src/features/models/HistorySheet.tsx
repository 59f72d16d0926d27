import { isProblem } from "@/api/client";
import { day } from "@/lib/format";
import { Button } from "@/ui/Button";
import { Sheet } from "@/ui/Sheet";
import type { ModelPageData } from "./models.queries";
import { useHistory, useRestore } from "./models.queries";

/** Who changed the page, when and why; an older page can be made to hold again. */
export function HistorySheet({ page, onClose }: { page: ModelPageData; onClose: () => void }) {
  const history = useHistory(page.model_id);
  const restore = useRestore();
  const failed = restore.error && isProblem(restore.error) ? restore.error.message : null;
  return (
    <Sheet
      open
      onClose={onClose}
      title="History"
      about={`${page.maker} ${page.name}: nothing is erased, restoring is a revision too.`}
      wide
    >
      {failed && <p className="mb-2 font-semibold text-short">{failed}</p>}
      <table className="w-full text-[0.95rem]">
        <thead>
          <tr className="border-b border-ink">
            <th scope="col" className="py-1">
              Revision
            </th>
            <th scope="col">When</th>
            <th scope="col">Who</th>
            <th scope="col">Why</th>
            <th scope="col">
              <span className="sr-only">Restore</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {history.data?.revisions.map((row) => (
            <tr key={row.number} className="border-b border-dotted border-rule">
              <th scope="row" className="py-1">
                {row.number}
                {row.draft && <span className="ml-1 font-normal text-soft">draft</span>}
              </th>
              <td>{day(row.recorded_at)}</td>
              <td>{row.author ?? "import"}</td>
              <td>{row.reason}</td>
              <td className="text-right">
                {row.number === page.number ? (
                  <span className="text-soft">holds</span>
                ) : (
                  <Button
                    look="quiet"
                    disabled={restore.isPending}
                    onClick={() =>
                      restore.mutate(
                        { id: page.model_id, number: row.number, latest: page.latest_number },
                        { onSuccess: onClose },
                      )
                    }
                  >
                    Restore {row.number}
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Sheet>
  );
}

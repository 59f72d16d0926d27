import { isProblem } from "@/api/client";

/** The foot of a table whose buttons act at once: why the last act was refused. */
export function ProblemFoot({ error }: { error: Error | null }) {
  if (!error) return null;
  const words = isProblem(error) ? (error.faults[0]?.message ?? error.detail) : error.message;
  return (
    <tfoot>
      <tr>
        <td colSpan={2} role="alert" className="font-semibold text-short">
          {words}
        </td>
      </tr>
    </tfoot>
  );
}

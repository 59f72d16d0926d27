import { useEffect } from "react";

import { STACKED } from "./narrow";

const NAME = "Parts Almanac";

/** The names over a table's columns, one for each column, from the last row of its head. */
function headsOf(table: HTMLTableElement): string[] {
  const row = table.tHead?.rows[table.tHead.rows.length - 1];
  return row
    ? [...row.cells].flatMap((cell) => Array<string>(cell.colSpan).fill(cell.dataset.name ?? wordsOf(cell)))
    : [];
}

/** Words of a head, a space between what stands on lines of its own. */
function wordsOf(cell: HTMLTableCellElement): string {
  const texts = document.createTreeWalker(cell, NodeFilter.SHOW_TEXT);
  const found: string[] = [];
  while (texts.nextNode()) found.push(texts.currentNode.textContent?.trim() ?? "");
  return found.filter(Boolean).join(" ");
}

const roleOf = (cell: HTMLTableCellElement): string => {
  if (cell.tagName === "TD") return "cell";
  return cell.scope === "row" ? "rowheader" : "columnheader";
};

function nameRow(row: HTMLTableRowElement, heads: string[]): void {
  row.setAttribute("role", "row");
  row.parentElement?.setAttribute("role", "rowgroup");
  let place = 0;
  for (const cell of row.cells) {
    cell.setAttribute("role", roleOf(cell));
    const head = heads[place];
    if (cell.tagName === "TD" && head && cell.dataset.head !== head) cell.dataset.head = head;
    place += cell.colSpan;
  }
}

/** Where a screen is narrow a row of a table stands as a block: each of its cells then carries the name of its column. Roles keep what
 * the style would take from it. */
function nameCells(table: HTMLTableElement): void {
  const heads = headsOf(table);
  if (heads.length === 0) return;
  table.setAttribute("role", "table");
  for (const row of table.rows) nameRow(row, heads);
}

function look(stacked: boolean): void {
  const title = document.querySelector("main h1")?.textContent?.trim();
  const wanted = title ? `${title} · ${NAME}` : NAME;
  if (document.title !== wanted) document.title = wanted;
  if (stacked) for (const table of document.querySelectorAll("table")) nameCells(table);
}

/** Keeps the window's title and the tables of a narrow screen in step with what is on the page. */
export function usePage(): void {
  useEffect(() => {
    const narrow = window.matchMedia(STACKED);
    let asked = 0;
    const soon = (): void => {
      cancelAnimationFrame(asked);
      asked = requestAnimationFrame(() => look(narrow.matches));
    };
    const watch = new MutationObserver(soon);
    watch.observe(document.body, { childList: true, subtree: true, characterData: true });
    narrow.addEventListener("change", soon);
    soon();
    return () => {
      watch.disconnect();
      narrow.removeEventListener("change", soon);
      cancelAnimationFrame(asked);
    };
  }, []);
}

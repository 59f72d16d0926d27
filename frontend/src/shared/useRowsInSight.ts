import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";

export interface RowsInSight {
  count: number;
  /** Of a row, px. */
  height: number;
  more: boolean;
  loading: boolean;
  onMore: () => void;
}

const OVERSCAN = 12;
/** So many rows before the last one that was read, more are asked for. */
const AHEAD = 20;

/** Of a long list only the rows in sight exist, and the next page is fetched before its end is reached. */
export function useRowsInSight({ count, height, more, loading, onMore }: RowsInSight) {
  const frame = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count,
    getScrollElement: () => frame.current,
    estimateSize: () => height,
    overscan: OVERSCAN,
  });
  useEffect(() => {
    if (height) rows.measure();
  }, [rows, height]);
  const shown = rows.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  useEffect(() => {
    if (more && !loading && last > count - AHEAD) onMore();
  }, [more, loading, last, count, onMore]);
  return { frame, rows, shown };
}

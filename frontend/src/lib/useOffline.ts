import { useSyncExternalStore } from "react";

function watch(tell: () => void): () => void {
  window.addEventListener("online", tell);
  window.addEventListener("offline", tell);
  return () => {
    window.removeEventListener("online", tell);
    window.removeEventListener("offline", tell);
  };
}

/** Whether this device has no connection at all, by its own word. */
export const useOffline = (): boolean => useSyncExternalStore(watch, () => !navigator.onLine);

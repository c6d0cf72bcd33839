import { useSyncExternalStore } from "react";

const subscribe = (f: () => void) => {
  addEventListener("online", f);
  addEventListener("offline", f);
  return () => {
    removeEventListener("online", f);
    removeEventListener("offline", f);
  };
};

/** useOnline tells whether the browser has a connection at all. */
export const useOnline = () => useSyncExternalStore(subscribe, () => navigator.onLine);

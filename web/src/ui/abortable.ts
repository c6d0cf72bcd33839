import { useEffect, useMemo, useRef } from "react";

/** useAbortable is for work that takes a while: begin gives a signal and stops the work
 * before it; what runs is stopped when the key changes or the component goes. */
export function useAbortable(key: string) {
  const running = useRef<AbortController>(undefined);
  const work = useMemo(
    () => ({
      begin: () => {
        running.current?.abort();
        running.current = new AbortController();
        return running.current.signal;
      },
      stop: () => running.current?.abort(),
    }),
    [],
  );
  useEffect(() => work.stop, [key, work]);
  return work;
}

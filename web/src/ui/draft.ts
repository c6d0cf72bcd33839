import { useState } from "react";

/** useDraft is what somebody is typing over a value; a new value takes its place. */
export function useDraft<T>(value: T) {
  const [from, setFrom] = useState(value);
  const [draft, setDraft] = useState(value);
  if (from !== value) {
    setFrom(value);
    setDraft(value);
  }
  return [from === value ? draft : value, setDraft] as const;
}

import type { KeyboardEvent } from "react";

/** pressable makes a part of a drawing a button, for pointer and keyboard alike. */
export const pressable = (name: string, act: () => void) => ({
  role: "button",
  tabIndex: 0,
  "aria-label": name,
  onClick: act,
  onKeyDown: (e: KeyboardEvent) => {
    if (e.key !== "Enter" && e.key !== " ") return;
    e.preventDefault();
    e.stopPropagation();
    act();
  },
  style: { cursor: "pointer" },
});

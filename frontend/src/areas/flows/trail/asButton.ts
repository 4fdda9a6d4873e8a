import type { KeyboardEvent, MouseEvent } from "react";

/** What makes a part of the drawing a button, for mouse and keys alike. */
export function asButton(label: string, act: () => void) {
  return {
    role: "button",
    tabIndex: 0,
    "aria-label": label,
    style: { cursor: "pointer" },
    onClick: (event: MouseEvent) => {
      event.stopPropagation();
      act();
    },
    onKeyDown: (event: KeyboardEvent) => {
      if (event.key !== "Enter" && event.key !== " ") return;
      // The map itself has keys of its own.
      event.preventDefault();
      event.stopPropagation();
      act();
    },
  };
}

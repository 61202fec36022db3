import { useEffect, useRef } from "react";
import { create } from "zustand";
import { focusMark, isFocusNowhere } from "../ui/marks";

export const STRIP = "strip-list";
const FRAMES = 60;

/** Whether the readout is open where there is no room for it beside the stage. */
export const useReadoutOpen = create<{ isOpen: boolean; set: (isOpen: boolean) => void }>((set) => ({
  isOpen: false,
  set: (isOpen) => set({ isOpen }),
}));

/** Let the selected swatch be named. */
export function renameSelected() {
  useReadoutOpen.getState().set(true);
  focusMark("swatch-name");
}

/** The strip takes the focus where it has a swatch to go on from. */
function focusOnStrip() {
  const strip = document.getElementById(STRIP);
  if (isFocusNowhere() && !document.querySelector("[role=dialog]") && strip?.querySelector("[role=option]"))
    strip.focus({ preventScroll: true });
}

/**
 * The focus is never nowhere: a bench opens with it on the strip, Escape from a field puts it there, and a stage that takes the
 * place of the one with the focus gets it. A view that is to be typed into takes it for itself.
 */
export function useFocus(stage: string) {
  useEffect(() => {
    const opened = requestAnimationFrame(focusOnStrip);
    const left = (event: KeyboardEvent) => {
      // Behind the moment in which a panel that it closes gives the focus back.
      if (event.key === "Escape") setTimeout(() => setTimeout(focusOnStrip));
    };
    window.addEventListener("keydown", left, true);
    return () => {
      cancelAnimationFrame(opened);
      window.removeEventListener("keydown", left, true);
    };
  }, []);
  const before = useRef(stage);
  useEffect(() => {
    if (before.current === stage) return;
    before.current = stage;
    // What had the focus goes when the next stage is there, which may be loaded first.
    const had = document.activeElement;
    let left = FRAMES;
    let next = requestAnimationFrame(function look() {
      if (isFocusNowhere()) {
        // A panel that has just opened closes when the focus goes elsewhere.
        if (!document.querySelector("[role=dialog]"))
          document.getElementById("stage")?.focus({ preventScroll: true });
      } else if (document.activeElement === had && left-- > 0) next = requestAnimationFrame(look);
    });
    return () => cancelAnimationFrame(next);
  }, [stage]);
}

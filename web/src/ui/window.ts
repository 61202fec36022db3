import { useSyncExternalStore } from "react";

/** Whether a media query holds, as the window is now. */
function useMedia(query: string): boolean {
  return useSyncExternalStore(
    (changed) => {
      const media = window.matchMedia(query);
      media.addEventListener("change", changed);
      return () => media.removeEventListener("change", changed);
    },
    () => window.matchMedia(query).matches,
  );
}

/** Too narrow for the stage with the readout beside it. */
export const useIsNarrow = () => useMedia("(max-width: 999px)");

/** Worked with fingers. */
export const useIsTouched = () => useMedia("(pointer: coarse)");

export const FINGER_PX = 44;

/** How many places of a finger's width stand beside each other in the window; null where a pointer is finer. */
export function useFingersAcross(margin: number): number | null {
  const touched = useIsTouched();
  const across = useSyncExternalStore(
    (changed) => {
      window.addEventListener("resize", changed);
      return () => window.removeEventListener("resize", changed);
    },
    () => Math.max(1, Math.floor((window.innerWidth - margin) / FINGER_PX)),
  );
  return touched ? across : null;
}

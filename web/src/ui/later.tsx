import { type ComponentType, lazy, useState } from "react";

/** A component whose code comes when it is first drawn, or before, where `load` is called. */
export type Later<Props> = ComponentType<Props> & { load: () => Promise<unknown> };

/**
 * Once its code is there it is drawn at once. A lazy component of React's own falls back for a moment whenever one is drawn for the
 * first time, and what was hidden by a fallback comes back three tenths of a second later at the soonest, each level for itself.
 */
export function later<Props extends object = object>(
  fetched: () => Promise<ComponentType<Props>>,
): Later<Props> {
  let loaded: ComponentType<Props> | null = null;
  let coming: Promise<{ default: ComponentType<Props> }> | null = null;
  const load = () => {
    coming ??= fetched().then(
      (component) => {
        loaded = component;
        return { default: component };
      },
      (error: unknown) => {
        // What could not be fetched is asked for again when it is wanted again.
        coming = null;
        Waiting = lazy(load) as unknown as ComponentType<Props>;
        throw error;
      },
    );
    return coming;
  };
  let Waiting = lazy(load) as unknown as ComponentType<Props>;
  // biome-ignore lint/correctness/noComponentHookFactories: made once, where a module is read, and never while something is drawn
  function Shown(props: Props) {
    // Of the same kind as long as it is there, so that what it holds is not lost.
    const [Kind] = useState(() => loaded ?? Waiting);
    return <Kind {...props} />;
  }
  return Object.assign(Shown, { load });
}

/** Do something when the browser has nothing else to do. */
export function whenIdle(work: () => void) {
  if (window.requestIdleCallback) window.requestIdleCallback(work);
  else setTimeout(work, 400);
}

import { Profiler, type ReactNode } from "react";

interface Drawn {
  id: string;
  ms: number;
}

/**
 * While the code is worked on, and in a build of the mode “profiling”, React tells what it draws: `window.drawn` lists it. In the
 * usual build there is nothing to it.
 */
export function Measured({ id, children }: { id: string; children: ReactNode }) {
  if (!import.meta.env.DEV && import.meta.env.MODE !== "profiling") return children;
  return (
    <Profiler
      id={id}
      onRender={(name, _phase, ms) => {
        const page = window as unknown as { drawn?: Drawn[] };
        page.drawn ??= [];
        page.drawn.push({ id: name, ms });
      }}
    >
      {children}
    </Profiler>
  );
}

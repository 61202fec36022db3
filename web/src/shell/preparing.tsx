import { useQuery } from "@tanstack/react-query";
import { ask } from "../api/queries";

/** While the very first start still prepares what draws and reduces: how far that is, and what waits for it. */
export function Preparing() {
  const { data: share } = useQuery(ask.preparing());
  if (share == null) return null;
  const percent = Math.round(share * 100);
  return (
    <section
      aria-label="Preparation"
      className="fixed inset-x-0 bottom-0 z-40 flex h-9 items-center gap-3 border-t border-line bg-panel px-6 text-small"
    >
      <progress
        aria-label="Prepared"
        max={100}
        value={percent}
        className="h-1.5 w-40 appearance-none overflow-hidden rounded-full bg-line [&::-webkit-progress-bar]:bg-line [&::-webkit-progress-value]:bg-ink"
      />
      <p role="status" className="m-0">
        Huvren is being prepared, this once: {percent} %. Palettes can be worked on; what reduces and draws
        waits and goes on by itself.
      </p>
    </section>
  );
}

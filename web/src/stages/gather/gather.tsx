import { useBench } from "../../bench/context";
import { BringView } from "./bring";
import { CompanionsView } from "./companions";
import { LaddersView } from "./ladders";
import { MixView } from "./mix";
import { PickView } from "./pick";
import { TypingView } from "./typing";
import { type GatherView, useGather } from "./views";

const GATHER_VIEWS = [
  { id: "type", label: "By typing", View: TypingView },
  { id: "pick", label: "From a picture", View: PickView },
  { id: "companions", label: "From a base color", View: CompanionsView },
  { id: "ladders", label: "Ladders", View: LaddersView },
  { id: "mix", label: "Mix by parts", View: MixView },
  { id: "bring", label: "From a palette or file", View: BringView },
] satisfies { id: GatherView; label: string; View: () => React.JSX.Element }[];

/** Colors in, from anywhere. */
export function GatherStage() {
  const { discard } = useBench();
  const { view, setView } = useGather();
  const { View } = GATHER_VIEWS.find((entry) => entry.id === view) ?? { View: TypingView };
  return (
    <div className="flex min-h-0 grow flex-col">
      <div role="tablist" aria-label="Ways to gather" className="-mt-1.5 mb-2 flex items-center gap-4">
        {GATHER_VIEWS.map(({ id, label }) => (
          <button
            key={id}
            type="button"
            role="tab"
            aria-selected={view === id}
            className={`min-h-7 border-b-2 text-[13px] whitespace-nowrap ${
              view === id ? "border-ink font-semibold" : "border-transparent text-quiet hover:text-ink"
            }`}
            onClick={() => {
              if (view === id) return;
              discard();
              setView(id);
            }}
          >
            {label}
          </button>
        ))}
      </div>
      <View />
    </div>
  );
}

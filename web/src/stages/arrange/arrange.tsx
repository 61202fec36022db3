import { useBench } from "../../bench/context";
import { focusMark } from "../../bench/keys";
import { useScreen } from "../../shell/store";
import { TextButton } from "../../ui/button";
import { useGather } from "../gather/views";
import { AdjustView } from "./adjust";
import { CompareView } from "./compare";
import { ChipsView, GridView } from "./grid";
import { ListView } from "./list";
import { MapView } from "./map";
import { SortView } from "./sort";
import { TwinsView } from "./twins";
import { VariantsView } from "./variants";
import { ARRANGE_VIEWS, type ArrangeView, useArrange } from "./views";

const VIEWS: Record<ArrangeView, () => React.JSX.Element> = {
  list: ListView,
  grid: GridView,
  chips: ChipsView,
  map: MapView,
  sort: SortView,
  twins: TwinsView,
  adjust: AdjustView,
  compare: CompareView,
  variants: VariantsView,
};

/** Name, group, sort and merge. */
export function ArrangeStage() {
  const { palette, discard, draft } = useBench();
  const { view, setView } = useArrange();
  const setStage = useScreen((screen) => screen.setStage);
  if (palette.swatches.length === 0 && !draft) {
    return (
      <p className="text-quiet">
        There is nothing to arrange yet.
        <TextButton
          onClick={() => {
            setStage("gather");
            useGather.getState().setView("type");
            focusMark("entry");
          }}
        >
          Add the first swatch
        </TextButton>
      </p>
    );
  }
  const View = VIEWS[view];
  return (
    <div className="flex min-h-0 grow flex-col">
      <div role="tablist" aria-label="Ways to arrange" className="-mt-1.5 mb-2 flex items-center gap-4">
        {ARRANGE_VIEWS.map(({ id, label, has }, place) => (
          <span key={id} className="contents">
            {has === "draft" && ARRANGE_VIEWS[place - 1]?.has === "toolbar" && (
              <span role="presentation" className="h-4 w-px bg-line" />
            )}
            <button
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
          </span>
        ))}
      </div>
      <View />
    </div>
  );
}

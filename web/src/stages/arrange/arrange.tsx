import { useBench } from "../../bench/context";
import { focusMark } from "../../bench/keys";
import { useScreen } from "../../shell/store";
import { TextButton } from "../../ui/button";
import { ListView } from "./list";
import { SortView } from "./sort";
import { TwinsView } from "./twins";
import { ARRANGE_VIEWS, type ArrangeView, useArrange } from "./views";

const VIEWS: Record<ArrangeView, () => React.JSX.Element> = {
  list: ListView,
  sort: SortView,
  twins: TwinsView,
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
    <div className="relative flex min-h-0 grow flex-col [&>fieldset]:pr-48">
      <div role="tablist" aria-label="Ways to arrange" className="absolute top-0 right-0 z-10 flex gap-4">
        {ARRANGE_VIEWS.map(({ id, label }) => (
          <button
            key={id}
            type="button"
            role="tab"
            aria-selected={view === id}
            className={`min-h-8 border-b-2 text-[13px] ${
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

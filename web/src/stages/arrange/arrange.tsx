import { useCommands, useDrafted, usePalette } from "../../bench/context";
import { runStageKey, useStages } from "../../bench/stages";
import { TextButton } from "../../ui/button";
import { ViewTabs } from "../../ui/view-tabs";
import { AdjustView } from "./adjust";
import { CompareView } from "./compare";
import { ChipsView, GridView } from "./grid";
import { ListView } from "./list";
import { MapView } from "./map";
import { PictureView } from "./picture-view";
import { SortView } from "./sort";
import { TwinsView } from "./twins";
import { VariantsView } from "./variants";
import { ARRANGE_VIEWS, type ArrangeView, useArrange } from "./views";

const VIEWS: Record<ArrangeView, () => React.JSX.Element> = {
  list: ListView,
  grid: GridView,
  chips: ChipsView,
  map: MapView,
  picture: PictureView,
  sort: SortView,
  twins: TwinsView,
  adjust: AdjustView,
  compare: CompareView,
  variants: VariantsView,
};

const TABS = ARRANGE_VIEWS.map((entry, place) => ({
  ...entry,
  apart: entry.has === "draft" && ARRANGE_VIEWS[place - 1]?.has === "toolbar",
}));

/** Name, group, sort and merge. */
export function ArrangeStage() {
  const palette = usePalette();
  const draft = useDrafted();
  const { discard } = useCommands();
  const { view, setView } = useArrange();
  const stages = useStages();
  if (palette.swatches.length === 0 && !draft) {
    return (
      <p className="text-quiet">
        There is nothing to arrange yet.
        <TextButton onClick={() => runStageKey(stages, "type-a-color")}>Add the first swatch</TextButton>
      </p>
    );
  }
  const View = VIEWS[view];
  return (
    <ViewTabs
      label="Ways to arrange"
      views={TABS}
      view={view}
      onChange={(next) => {
        discard();
        setView(next);
      }}
    >
      <View />
    </ViewTabs>
  );
}

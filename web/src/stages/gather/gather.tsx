import { useCommands } from "../../bench/context";
import { ViewTabs } from "../../ui/view-tabs";
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
  const { discard } = useCommands();
  const { view, setView } = useGather();
  const { View } = GATHER_VIEWS.find((entry) => entry.id === view) ?? { View: TypingView };
  return (
    <ViewTabs
      label="Ways to gather"
      views={GATHER_VIEWS}
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

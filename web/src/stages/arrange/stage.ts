import type { Stage } from "../../bench/stages";
import { later } from "../../ui/later";
import { focusMark } from "../../ui/marks";
import { showToolbar } from "./views";

export const arrange: Stage = {
  id: "arrange",
  label: "Arrange",
  use: "Name, group, sort and merge the swatches",
  component: later(async () => (await import("./arrange")).ArrangeStage),
  keys: [
    {
      id: "group-selected",
      key: "g",
      use: "group the selected swatches",
      run: () => {
        showToolbar();
        focusMark("group-selected", true);
      },
    },
    {
      id: "merge-selected",
      key: "m",
      use: "merge the selected swatches",
      run: () => {
        showToolbar();
        focusMark("merge-selected", true);
      },
    },
  ],
};

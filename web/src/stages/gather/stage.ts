import { work } from "../../bench/lines";
import type { Stage } from "../../bench/stages";
import { later } from "../../ui/later";
import { focusMark } from "../../ui/marks";
import { useGather } from "./views";

export const gather: Stage = {
  id: "gather",
  label: "Gather",
  use: "Bring colors in by typing or pasting them",
  component: later(async () => (await import("./gather")).GatherStage),
  opened: (queries, bench) => void work(queries, bench),
  keys: [
    {
      id: "type-a-color",
      key: "a",
      use: "add a color by typing it",
      run: () => {
        useGather.getState().setView("type");
        focusMark("entry");
      },
    },
    {
      id: "pick-from-picture",
      key: "p",
      use: "pick colors from a picture",
      run: () => useGather.getState().setView("pick"),
    },
  ],
};

import type { Stage } from "../../bench/stages";
import { later } from "../../ui/later";

export const reduce: Stage = {
  id: "reduce",
  label: "Reduce",
  use: "Cut a picture down to this palette",
  component: later(async () => (await import("./reduce")).ReduceStage),
  keys: [],
};

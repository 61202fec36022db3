import type { Stage } from "../../bench/stages";

export const reduce: Stage = {
  id: "reduce",
  label: "Reduce",
  use: "Cut a picture down to this palette",
  load: () => import("./reduce").then((loaded) => ({ default: loaded.ReduceStage })),
  keys: [],
};

import type { Stage } from "../../bench/stages";

export const ramp: Stage = {
  id: "ramp",
  label: "Ramp",
  use: "Fill in between two or more colors",
  load: () => import("./ramp").then((loaded) => ({ default: loaded.RampStage })),
  keys: [],
};

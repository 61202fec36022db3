import type { Stage } from "../../bench/stages";

export const check: Stage = {
  id: "check",
  label: "Check",
  use: "Ask whether the palette will read, and mend it",
  load: () => import("./check").then((loaded) => ({ default: loaded.CheckStage })),
  keys: [],
};

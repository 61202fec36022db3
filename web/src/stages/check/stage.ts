import type { Stage } from "../../bench/stages";
import { later } from "../../ui/later";

export const check: Stage = {
  id: "check",
  label: "Check",
  use: "Ask whether the palette will read, and mend it",
  component: later(async () => (await import("./check")).CheckStage),
  keys: [],
};

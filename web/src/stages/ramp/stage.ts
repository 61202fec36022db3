import type { Stage } from "../../bench/stages";
import { later } from "../../ui/later";

export const ramp: Stage = {
  id: "ramp",
  label: "Ramp",
  use: "Fill in between two or more colors",
  component: later(async () => (await import("./ramp")).RampStage),
  keys: [],
};

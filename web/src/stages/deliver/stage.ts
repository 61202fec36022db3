import type { Stage } from "../../bench/stages";
import { later } from "../../ui/later";

export const deliver: Stage = {
  id: "deliver",
  label: "Deliver",
  use: "Hand the palette and the picture on as files",
  component: later(async () => (await import("./deliver")).DeliverStage),
  keys: [],
};

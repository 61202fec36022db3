import type { Stage } from "../../bench/stages";

export const deliver: Stage = {
  id: "deliver",
  label: "Deliver",
  use: "Hand the palette and the picture on as files",
  load: () => import("./deliver").then((loaded) => ({ default: loaded.DeliverStage })),
  keys: [],
};

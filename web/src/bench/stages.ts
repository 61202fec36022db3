import type { StageId } from "../shell/store";

/** The stages in the order of the work. */
export const STAGE_ROW: { id: StageId; label: string; use: string }[] = [
  { id: "gather", label: "Gather", use: "Bring colors in by typing or pasting them" },
  { id: "reduce", label: "Reduce", use: "Cut a picture down to this palette" },
  { id: "arrange", label: "Arrange", use: "Name, group, sort and merge the swatches" },
  { id: "ramp", label: "Ramp", use: "Fill in between two or more colors" },
  { id: "deliver", label: "Deliver", use: "Hand the palette and the picture on as files" },
];

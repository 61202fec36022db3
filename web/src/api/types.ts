/** The shapes that go over the wire, by the names that the interface calls them. */

import type { components } from "./schema";

export type Schemas = components["schemas"];
export type Palette = Schemas["PaletteOut"];
export type Swatch = Schemas["SwatchOut"];
export type Link = Schemas["LinkOut"];
export type Recipe = Schemas["ReduceRecipe"];
export type KeptRecipe = Schemas["KeptRecipeOut"];
export type Proposal = Schemas["ProposalOut"];
export type Figures = Schemas["FiguresOut"];
export type Menus = Schemas["MenusOut"];
export type FormatChoice = Schemas["FormatOut"];
export type Step = Schemas["StepOut"];
export type PaletteCard = Schemas["PaletteCard"];
export type PictureCard = Schemas["PictureCard"];
export type Picture = Schemas["PictureOut"];
export type Operation = Schemas["OperationIn"]["operation"];
export type StepProposal = Schemas["StepProposalOut"];
export type Ramp = Schemas["RampOut"];
export type RampRecipe = Schemas["RampRecipe"];
export type RampStop = Schemas["RampStop"];
export type Lane = Schemas["LaneOut"];
export type RampMenus = Schemas["RampMenusOut"];
export type KeptRamp = Schemas["KeptRampOut"];
export type RampCard = Schemas["RampCard"];
export type Maker = Schemas["MakerOut"];
export type Delivery = Schemas["DeliveryOut"];
export type Import = Schemas["ImportOut"];
export type Description = Schemas["DescribeOut"];
export type Plane = Schemas["PlaneOut"];
export type Variant = Schemas["VariantOut"];
export type Sample = Schemas["SampleOut"];
export type Checks = Schemas["ChecksOut"];
export type LensChoice = Schemas["LensOut"];
export type CheckReport = Schemas["ReportOut"];
export type CheckMenu = Schemas["CheckMenuOut"];
export type CheckSetting = Schemas["SettingOut"];
export type Drawing = Schemas["DrawingOut"];
export type DrawnShape = Schemas["ShapeOut"];
export type ChecksRequest = Schemas["ChecksIn"];
export type Job = Schemas["JobOut"];
export type Usage = Schemas["UsageOut"];
export type Use = Schemas["UseOut"];
export type Reading = Schemas["ReadingOut"];

/** What is tried out on the bench before it is kept: a reduction, or any one operation. */
export type Draft =
  | { kind: "reduce"; picture: string; recipe: Recipe }
  | { kind: "step"; operation: Operation };

/** What a draft would give. The index bytes of a reduction are new ones; a step keeps those that are there. */
export type Preview =
  | { kind: "reduce"; proposal: Proposal; indices: Uint8Array }
  | { kind: "step"; proposal: StepProposal };

/** What a delivered file holds: some swatches or all, options of its format, and the picture of a picture format. */
export type FileRequest = Schemas["DeliveryIn"];
export type MapKind = Schemas["ErrorMapIn"]["kind"];
export type ArchiveTaken = Schemas["ArchiveTaken"];
export type RampWish = Schemas["RampIn"];
export type RampEdit = Schemas["EditIn"];

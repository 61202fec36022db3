import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
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
export type Shelf = Schemas["ShelfOut"];
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
export type Reading = Schemas["ReadingOut"];

/** An error as the server words it. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly current?: Palette,
  ) {
    super(message);
  }
}

export function csrfToken() {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

export const client = createClient<paths>({ baseUrl: location.origin, fetch: reach });
client.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
});

function asProblem(status: number, body: unknown): Problem {
  const known = body as Partial<{ code: string; message: string; current: Palette }> | undefined;
  const message = known?.message ?? `The server answered ${status} without saying why. Try again.`;
  return new Problem(status, known?.code ?? "unknown", message, known?.current);
}

/** The server could not be reached: nothing was answered, so nothing is known to be wrong. */
function unreached(): Problem {
  return new Problem(0, "offline", "The server cannot be reached. Try again.");
}

/** Whether a request may go through when it is sent again later, as it is. What took too long once does so again. */
export function isAway(error: unknown): boolean {
  if (!(error instanceof Problem) || error.code === "took_too_long") return false;
  return error.code === "offline" || error.status === 429 || error.status >= 502;
}

/** fetch, whose failure to reach anybody is a problem like any other. What is wrong in our own code stays what it is. */
async function reach(request: Request): Promise<Response> {
  try {
    return await fetch(request);
  } catch (error) {
    if (request.signal.aborted) throw error;
    throw unreached();
  }
}

async function post(path: string, body: unknown, signal: AbortSignal | null = null): Promise<Response> {
  const headers = { "Content-Type": "application/json", "X-CSRFToken": csrfToken() };
  const address = new URL(path, location.origin);
  const response = await reach(
    new Request(address, { method: "POST", headers, body: JSON.stringify(body), signal }),
  );
  if (!response.ok) throw asProblem(response.status, await response.json().catch(() => undefined));
  return response;
}

/** openapi-fetch widens the fixed triples of a palette to lists; the schema's own type is given back here. */
type Exact<Data> = Data extends { swatches: unknown; links: unknown } ? Palette : Data;

/** The data of an answer, or the server's problem thrown. */
export async function unwrap<Data>(
  call: Promise<{ data?: Data; error?: unknown; response: Response }>,
): Promise<Exact<Data>> {
  const { data, error, response } = await call;
  if (response.status === 401) location.assign("/sign-in");
  if (error !== undefined || !response.ok) throw asProblem(response.status, error);
  return data as Exact<Data>;
}

function upload<Answer>(
  path: string,
  file: File,
  fields: Record<string, string>,
  onProgress?: (share: number) => void,
): Promise<Answer> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", path);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.responseType = "json";
    request.upload.onprogress = (event) => onProgress?.(event.loaded / Math.max(event.total, 1));
    request.onload = () =>
      request.status < 300
        ? resolve(request.response as Answer)
        : reject(asProblem(request.status, request.response));
    request.onerror = () => reject(unreached());
    const form = new FormData();
    form.append("file", file);
    for (const [name, value] of Object.entries(fields)) form.append(name, value);
    request.send(form);
  });
}

/** Bring a picture in, with progress 0..1. */
export function uploadPicture(file: File, onProgress: (share: number) => void): Promise<Picture> {
  return upload("/api/pictures", file, {}, onProgress);
}

/** What a file holds; a picture of many colors is also offered reduced to `colors`. Nothing is stored. */
export function lookInto(file: File, colors: number): Promise<Import> {
  return upload("/api/imports", file, { colors: String(colors) });
}

/** Bring a library archive in; answers what it brought, or the job that does it where it is large. */
export function takeArchive(file: File): Promise<Schemas["ArchiveTaken"] | Job> {
  return upload("/api/library/archive", file, {});
}

/** What is tried out on the bench before it is kept: a reduction, or any one operation. */
export type Draft =
  | { kind: "reduce"; picture: string; recipe: Recipe }
  | { kind: "step"; operation: Operation };

/** What a draft would give. The index bytes of a reduction are new ones; a step keeps those that are there. */
export type Preview =
  | { kind: "reduce"; proposal: Proposal; indices: Uint8Array }
  | { kind: "step"; proposal: StepProposal };

/** A proposal and its index bytes: a uint32 length, JSON of that length, then one byte a pixel. */
export function readFrame(buffer: ArrayBuffer): { proposal: Proposal; indices: Uint8Array } {
  const length = new DataView(buffer).getUint32(0, true);
  const head = new TextDecoder().decode(new Uint8Array(buffer, 4, length));
  return { proposal: JSON.parse(head) as Proposal, indices: new Uint8Array(buffer, 4 + length) };
}

export async function fetchPreview(palette: string, draft: Draft, signal: AbortSignal): Promise<Preview> {
  if (draft.kind === "step") {
    const proposal = await unwrap(
      client.POST("/api/palettes/{palette_id}/operations/preview", {
        params: { path: { palette_id: palette } },
        body: { operation: draft.operation },
        signal,
      }),
    );
    return { kind: "step", proposal: proposal as StepProposal };
  }
  const body = { picture: draft.picture, recipe: draft.recipe };
  const response = await post(`/api/palettes/${palette}/previews`, body, signal);
  return { kind: "reduce", ...readFrame(await response.arrayBuffer()) };
}

export async function fetchIndices(palette: string, map: string): Promise<Uint8Array> {
  const response = await reach(new Request(new URL(`/api/palettes/${palette}/maps/${map}`, location.origin)));
  if (!response.ok) throw asProblem(response.status, await response.json().catch(() => undefined));
  return new Uint8Array(await response.arrayBuffer());
}

/** What a delivered file holds: some swatches or all, options of its format, and the picture of a picture format. */
export type FileRequest = Schemas["DeliveryIn"];

/** A file as it would be delivered, and its name. */
export async function fetchFile(palette: string, format: string, request: FileRequest) {
  const response = await post(`/api/palettes/${palette}/files/${format}`, request);
  const name = /filename\*=UTF-8''([^;]+)/.exec(response.headers.get("Content-Disposition") ?? "")?.[1];
  return { blob: await response.blob(), name: name ? decodeURIComponent(name) : null };
}

/** A kept ramp as a document of its own, to be brought in elsewhere. */
export function fetchRampDocument(palette: string, ramp: string, tied: boolean) {
  return unwrap(
    client.GET("/api/palettes/{palette_id}/ramps/{ramp_id}/document", {
      params: { path: { palette_id: palette, ramp_id: ramp }, query: { tied } },
    }),
  );
}

/** A ramp as a file, and its name. */
export async function fetchRampFile(palette: string, format: string, request: Schemas["RampFileIn"]) {
  const response = await post(`/api/palettes/${palette}/ramps/files/${format}`, request);
  const name = /filename\*=UTF-8''([^;]+)/.exec(response.headers.get("Content-Disposition") ?? "")?.[1];
  return { blob: await response.blob(), name: name ? decodeURIComponent(name) : null };
}

/** A ramp painted with the palette's swatches alone. */
export async function fetchDithered(palette: string, request: Schemas["DitheredIn"]): Promise<Blob> {
  return (await post(`/api/palettes/${palette}/ramps/dithered`, request)).blob();
}

/** A gray picture of where the result differs: of a recipe, or as the palette stands. */
/** A small piece of a picture as a recipe would paint it. */
export async function fetchPiece(palette: string, picture: string, recipe: Recipe, signal: AbortSignal) {
  const response = await post(`/api/palettes/${palette}/pictures/${picture}/piece`, { recipe }, signal);
  return response.blob();
}

export type MapKind = Schemas["ErrorMapIn"]["kind"];

export async function fetchErrorMap(
  palette: string,
  picture: string,
  recipe: Recipe | null,
  kind: MapKind,
): Promise<Blob> {
  const response = await post(`/api/palettes/${palette}/pictures/${picture}/errors`, { recipe, kind });
  return response.blob();
}

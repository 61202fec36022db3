/** Questions that a press asks once, whose answer goes into what the artist works on and is not looked at again. */

import { client, unwrap } from "./client";
import type { RampRecipe } from "./types";

/** The ids of swatches that a rule selects. */
export async function selectByRule(
  palette: string,
  body: { rule: string; ids: string[]; tolerance: number },
) {
  const params = { path: { palette_id: palette } };
  return (await unwrap(client.POST("/api/palettes/{palette_id}/selection", { params, body }))).ids;
}

/** The ramp that keeps a promise which this one breaks. */
export async function repairRamp(palette: string, ramp: RampRecipe, promise: string) {
  const params = { path: { palette_id: palette } };
  return (
    await unwrap(client.POST("/api/palettes/{palette_id}/ramps/repair", { params, body: { ramp, promise } }))
  ).ramp;
}

/** A change of a ramp's stops that the server works out. */
export async function editRamp(
  palette: string,
  ramp: RampRecipe,
  edit: string,
  more: { share?: number; place?: number; count?: number },
) {
  const params = { path: { palette_id: palette } };
  const body = { ramp, edit, share: 0.5, place: 0, count: 2, ...more };
  return (await unwrap(client.POST("/api/palettes/{palette_id}/ramps/edit", { params, body }))).ramp;
}

/** A ramp of so many steps from one swatch, by the maker that made it before. */
export async function makeAnew(palette: string, ramp: RampRecipe, swatch: string) {
  const params = { path: { palette_id: palette } };
  const body = {
    maker: ramp.purpose,
    colors: [swatch],
    numbers: ramp.numbers,
    steps: ramp.steps,
    measure: ramp.measure,
  };
  return (await unwrap(client.POST("/api/palettes/{palette_id}/ramps/make", { params, body }))).ramps[0];
}

/** Colors along a line across a picture. */
export async function sampleLine(
  picture: string,
  query: { x: number; y: number; to_x: number; to_y: number; count: number; diameter: number },
) {
  const params = { path: { picture_id: picture }, query };
  return (await unwrap(client.GET("/api/pictures/{picture_id}/samples", { params }))).samples;
}

/** What colors (six letters of hex each, one after the other) look like through a lens. */
export async function seeThrough(lens: string, amount: number | null, colors: string) {
  const params = { path: { lens_id: lens } };
  return (await unwrap(client.POST("/api/lenses/{lens_id}/see", { params, body: { colors, amount } })))
    .colors;
}

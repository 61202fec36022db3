/** The typed client, over `request`. It is called below `api/` alone: others call a question or a command. */

import createClient from "openapi-fetch";
import { request, type Sending } from "./request";
import type { paths } from "./schema";
import type { Palette } from "./types";

export const client = createClient<paths>({ baseUrl: location.origin, fetch: (wish) => request(wish) });

/** For steps of a palette: when they are sent again is said where they wait. */
export const patientClient = createClient<paths>({
  baseUrl: location.origin,
  fetch: (wish) => request(wish, { again: 0 } satisfies Sending),
});

/** openapi-fetch widens the fixed triples of a palette to lists; the schema's own type is given back here. */
type Exact<Data> = Data extends { swatches: unknown; links: unknown } ? Palette : Data;

/** The data of an answer; what is no answer was thrown by `request`. */
export async function unwrap<Data>(
  call: Promise<{ data?: Data; error?: unknown; response: Response }>,
): Promise<Exact<Data>> {
  return (await call).data as Exact<Data>;
}

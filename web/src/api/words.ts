import { Problem } from "./request";

/** An error in a sentence for a person: the server's own words, or what can be done where there are none. */
export function inWords(error: unknown): string {
  if (error instanceof Problem) return error.message;
  if (error instanceof DOMException && error.name === "AbortError") return "That was called off.";
  if (error instanceof Error && error.message) return error.message;
  return typeof error === "string" && error ? error : "Something went wrong. Try again.";
}

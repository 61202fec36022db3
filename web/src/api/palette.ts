import { useQuery } from "@tanstack/react-query";
import { ask } from "./queries";

/** A palette, asked for where it is not known yet. */
export function usePaletteOf(id: string) {
  return useQuery(ask.palette(id));
}

export function useMenusAsked() {
  return useQuery(ask.menus());
}

import { createJSONStorage } from "zustand/middleware";

/**
 * Where a store is kept in the browser. What has no room there, or may not be kept at all, is lost with the page and not before: the
 * store goes on without it.
 */
export function keptIn<State>(storage: () => Storage) {
  return createJSONStorage<State>(() => {
    const place = storage();
    return {
      getItem: (name) => place.getItem(name),
      setItem: (name, value) => {
        try {
          place.setItem(name, value);
        } catch {
          // An older state would be worse than none.
          place.removeItem(name);
        }
      },
      removeItem: (name) => place.removeItem(name),
    };
  });
}

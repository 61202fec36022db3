import { SURROUNDS, useScreen } from "./store";

const SHADES = { light: "#e6e6e6", mid: "#828282", dark: "#1a1a1a" } as const;

/** The neutral that the interface takes, so that colors can be judged against it. */
export function SurroundSwitch() {
  const surround = useScreen((screen) => screen.surround);
  const setSurround = useScreen((screen) => screen.setSurround);
  return (
    <fieldset className="m-0 flex overflow-hidden rounded-md border border-ink p-0">
      <legend className="sr-only">Surround</legend>
      {SURROUNDS.map((name) => (
        <label key={name} title={`Surround: ${name}`} className="relative block size-6 w-7 cursor-pointer">
          <input
            type="radio"
            name="surround"
            className="peer absolute inset-0 cursor-pointer opacity-0"
            checked={surround === name}
            onChange={() => setSurround(name)}
            aria-label={`Surround ${name}`}
          />
          <span
            className="grid h-full place-items-center peer-focus-visible:outline-2 peer-focus-visible:-outline-offset-3 peer-focus-visible:outline-ink"
            style={{ background: SHADES[name] }}
          >
            {surround === name && (
              <span
                className="size-1.5 rounded-full"
                style={{ background: name === "dark" ? "#f2f2f2" : "#000" }}
              />
            )}
          </span>
        </label>
      ))}
    </fieldset>
  );
}

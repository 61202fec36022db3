import type { CSSProperties, HTMLAttributes } from "react";
import { useLens } from "./lens";

interface Props extends Omit<HTMLAttributes<HTMLSpanElement>, "color"> {
  /** A color of the artist's, or none. */
  color: string | null | undefined;
  style?: CSSProperties;
}

/** A patch of one color, as it is seen. */
export function Patch({ color, style, ...rest }: Props) {
  const lens = useLens();
  return <span {...rest} style={{ ...style, background: color ? lens.css(color) : undefined }} />;
}

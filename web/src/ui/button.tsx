import type { ButtonHTMLAttributes, ComponentProps } from "react";

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  primary?: boolean;
}

/** A button with an edge; the one filled button of a view is its next step. */
export function Button({ primary, className = "", ...rest }: Props) {
  const look = primary
    ? "bg-ink text-ground border-ink"
    : "border-ink text-ink hover:bg-raised disabled:border-line disabled:text-quiet disabled:hover:bg-transparent";
  return (
    <button
      type="button"
      className={`min-h-7 rounded-md border px-3 text-small font-semibold whitespace-nowrap disabled:opacity-60 ${look} ${className}`}
      {...rest}
    />
  );
}

/** A plain word that acts. */
export function TextButton({ className = "", ...rest }: ComponentProps<"button">) {
  return (
    <button
      type="button"
      className={`min-h-7 rounded px-1.5 text-small font-semibold whitespace-nowrap hover:underline hover:underline-offset-4 disabled:text-quiet disabled:no-underline ${className}`}
      {...rest}
    />
  );
}

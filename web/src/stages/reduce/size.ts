/** A file size as people say it. */
export function kilobytes(bytes: number) {
  return bytes < 1024
    ? `${bytes} B`
    : bytes < 10_240
      ? `${(bytes / 1024).toFixed(1)} KB`
      : `${Math.round(bytes / 1024)} KB`;
}

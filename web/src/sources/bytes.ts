const UNITS = ['bytes', 'KB', 'MB', 'GB', 'TB'];

/** A size as a reader says it: 12.4 MB. */
export function bytes(size: number): string {
  const step = size < 1 ? 0 : Math.min(UNITS.length - 1, Math.floor(Math.log10(size) / 3));
  const shown = size / 1000 ** step;
  return `${shown.toFixed(step > 0 && shown < 100 ? 1 : 0)} ${UNITS[step]}`;
}

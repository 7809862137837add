/** The dates in a text, as 2026-12-25, each once and in order; null where something in it is no date. */
export function datesIn(text: string): string[] | null {
  const words = text.split(/[\s,;]+/).filter(Boolean);
  const good = words.every((w) => /^\d{4}-\d{2}-\d{2}$/.test(w) && !Number.isNaN(Date.parse(w)));
  return good ? [...new Set(words)].sort() : null;
}

import type { HeardText } from '../api/client';

export type Heard = HeardText['offers'][number]['heard'][number];

/** The text cut where its words take another tone; what was not understood stands out of what surrounds it. */
export function toned(text: string, heard: Heard[]): [string, string][] {
  const tones = new Array<string>(text.length).fill('');
  const late = (one: Heard) => (one.tone === 'unknown' ? 1 : 0);
  for (const { start, end, tone } of [...heard].sort((a, b) => late(a) - late(b)))
    tones.fill(tone, start, Math.min(end, text.length));
  const parts: [string, string][] = [];
  tones.forEach((tone, i) => {
    const last = parts.at(-1);
    if (last?.[1] === tone) last[0] += text[i] ?? '';
    else parts.push([text[i] ?? '', tone]);
  });
  return parts;
}

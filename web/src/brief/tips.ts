import type { Report } from '../api/client';
import type { Phrase } from '../definition/sentence';

const PLAIN: Partial<Record<Phrase['kind'], string>> = {
  window: 'which periods the sheet shows',
  totals: 'where totals stand',
  beside: 'a second source on the same lines and columns',
  layout: 'how the lines are set',
  records: 'the records under the lowest level',
  sight: 'left out of sight; totals count them all the same',
  silenced: 'disabled: stays in the sentence, has no effect',
};

/** What a phrase means in full, for its tooltip. */
export const tip = (report: Report, phrase: Phrase): string =>
  phrase.kind === 'only'
    ? (report.only?.[phrase.index] ?? '')
    : [PLAIN[phrase.kind], phrase.full].filter(Boolean).join(': ');

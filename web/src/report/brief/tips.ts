import type { Report } from '../../api/client';
import { entryWords, figureWords, takeWords, type Phrase } from './brief';

const PLAIN: Partial<Record<Phrase['kind'], string>> = {
  window: 'which periods the sheet shows',
  totals: 'where totals stand',
  beside: 'a second source on the same lines and columns',
  layout: 'how the lines are set',
  records: 'the records under the lowest level',
  sight: 'left out of sight; totals count them all the same',
  silenced: 'silenced: kept here, and not heeded',
};

/** What a phrase means in full, for its tooltip. */
export function tip(report: Report, phrase: Phrase): string {
  const { kind, index } = phrase;
  const plain = PLAIN[kind];
  if (plain) return plain;
  if (kind === 'figure') {
    const figure = report.figures[index];
    if (!figure) return '';
    const words = takeWords(figure);
    return figureWords(figure) === figure.name ? words : `${figure.name}: ${words}`;
  }
  if (kind === 'only') return report.only?.[index] ?? '';
  if (kind === 'keep') return report.keep?.[index]?.where ?? '';
  if (kind === 'lines') return report.lines?.[index]?.formula ?? '';
  if (kind !== 'down' && kind !== 'across') return '';
  const entry = report[kind]?.[index];
  return entry ? `${kind} by ${entryWords(entry)}` : '';
}

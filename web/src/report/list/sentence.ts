import type { Report } from '../../api/client';
import { brief } from '../brief/brief';

/** A report's brief as plain text. */
export const sentence = (report: Report): string =>
  brief(report)
    .map((piece) => (typeof piece === 'string' ? piece : piece.text))
    .join('')
    .replace(/\.$/, '');

import '../parts/note.css';

import type { WaitingView } from '../api/client';
import { Choose, Written } from '../parts/Field';
import type { BringingIn } from './useBringingIn';

const DELIMITERS: [string, string][] = [
  [',', 'commas'],
  [';', 'semicolons'],
  ['\t', 'tabs'],
  ['|', 'bars'],
];
const ENCODINGS: [string, string][] = [
  ['utf-8', 'UTF-8'],
  ['utf-8-sig', 'UTF-8 with BOM'],
  ['utf-16', 'UTF-16'],
  ['utf-32', 'UTF-32'],
  ['utf-8 and windows-1252', 'UTF-8 and Windows-1252, line by line'],
  ['cp1252', 'Windows-1252 (Western)'],
  ['cp1250', 'Windows-1250 (Central European)'],
  ['cp1254', 'Windows-1254 (Turkish)'],
  ['cp1257', 'Windows-1257 (Baltic)'],
  ['mac_roman', 'Mac Roman'],
  ['cp850', 'Code page 850'],
  ['cp1251', 'Windows-1251 (Cyrillic)'],
  ['koi8_r', 'KOI8-R (Cyrillic)'],
  ['cp1253', 'Windows-1253 (Greek)'],
  ['cp1255', 'Windows-1255 (Hebrew)'],
  ['cp1256', 'Windows-1256 (Arabic)'],
  ['cp874', 'Windows-874 (Thai)'],
  ['cp932', 'Shift JIS (Japanese)'],
  ['euc_jp', 'EUC-JP (Japanese)'],
  ['gb18030', 'GB 18030 (Chinese)'],
  ['big5', 'Big5 (Chinese)'],
  ['cp949', 'Windows-949 (Korean)'],
];

/** How a delimited file is laid out, as it was found; each finding can be overruled. */
export function LaidOut({ way, layout }: { way: BringingIn; layout: NonNullable<WaitingView['layout']> }) {
  return (
    <details className="note">
      <summary>
        Separated by {DELIMITERS.find(([d]) => d === layout.delimiter)?.[1] ?? layout.delimiter}, headings on
        line {layout.heading_line}
      </summary>
      <Choose
        label="Separator"
        value={layout.delimiter}
        options={DELIMITERS}
        change={(delimiter) => way.readAgain({ delimiter })}
      />
      <Choose
        label="Encoding"
        value={layout.encoding}
        options={ENCODINGS}
        change={(encoding) => way.readAgain({ encoding })}
      />
      <Written
        label="Headings on line"
        type="number"
        value={String(layout.heading_line)}
        change={(n) => way.readAgain({ heading_line: Math.max(1, Number(n) || 1) })}
      />
    </details>
  );
}

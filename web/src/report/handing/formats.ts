import type { PageChoice, Report, SheetView } from '../../api/client';
import { counted } from '../../parts/words';

export type Export = NonNullable<Report['export']>;
type Choices = [string, string][];

/** One of a file's settings: its key in the report, and its possible values. */
export interface Choice {
  key: keyof Export;
  label: string;
  options: Choices;
}

export interface Format {
  format: string;
  label: string;
  about: string;
  shapes: Choices;
  choices: Choice[];
  /** Whether a chart and the headline can be included. */
  page: boolean;
}

const SHAPES: Choices = [
  ['sheet', 'as on screen'],
  ['flat', 'flat, a row for every number’s place'],
];
const PAPER: Choice = {
  key: 'paper',
  label: 'Paper',
  options: [
    ['a4', 'A4'],
    ['letter', 'Letter'],
  ],
};
const WAY: Choice = {
  key: 'way',
  label: 'Orientation',
  options: [
    ['fits', 'as it fits best'],
    ['upright', 'portrait'],
    ['across', 'landscape'],
  ],
};
const TYPE: Choice = {
  key: 'type',
  label: 'Type size',
  options: [
    ['plain', '8 to 9 points'],
    ['board', '10 to 11 points, for a board'],
  ],
};
const SUBTOTALS: Choice = {
  key: 'subtotals',
  label: 'Subtotals',
  options: [
    ['live', 'live formulas'],
    ['values', 'values'],
  ],
};
const SEPARATOR: Choice = {
  key: 'separator',
  label: 'Separator',
  options: [
    [',', 'comma'],
    [';', 'semicolon'],
    ['\t', 'tab'],
    ['|', 'vertical bar'],
  ],
};
const ENCODING: Choice = {
  key: 'encoding',
  label: 'Encoding',
  options: [
    ['utf-8', 'UTF-8'],
    ['utf-8-bom', 'UTF-8 with BOM'],
    ['utf-16', 'UTF-16'],
    ['windows-1252', 'Windows-1252'],
  ],
};
const LABELS: Choice = {
  key: 'labels',
  label: 'Labels',
  options: [
    ['sheet', 'as on screen'],
    ['once', 'one column a level, said once'],
    ['each', 'one column a level, on each line'],
  ],
};

export const WORKBOOK: Format = {
  format: 'xlsx',
  label: 'Workbook',
  about: '.xlsx',
  shapes: [],
  choices: [SUBTOTALS, PAPER, WAY, TYPE],
  page: true,
};

export const FORMATS: Format[] = [
  WORKBOOK,
  { format: 'pdf', label: 'PDF', about: 'pages to print or send', shapes: [], choices: [PAPER, WAY, TYPE], page: true },
  { format: 'html', label: 'Web page', about: 'one file, groups open and close', shapes: [], choices: [PAPER, WAY, TYPE], page: true },
  { format: 'csv', label: 'Delimited text', about: '.csv', shapes: SHAPES, choices: [SEPARATOR, ENCODING, LABELS], page: false },
  { format: 'ods', label: 'OpenDocument', about: '.ods', shapes: [], choices: [SUBTOTALS], page: false },
  { format: 'json', label: 'JSON', about: 'for programs', shapes: SHAPES, choices: [], page: false },
  { format: 'parquet', label: 'Parquet', about: 'for programs, types kept', shapes: [], choices: [], page: false },
]; // prettier-ignore

/** A setting's options, each with the resulting pages and type size. */
export const withPages = (choice: Choice, made: PageChoice[] | undefined): Choices =>
  choice.options.map(([value, label]) => {
    const one = made?.find((other) => other.key === choice.key && other.value === value);
    return [value, one ? `${label} · ${counted(one.pages, 'page')} at ${one.size} pt` : label];
  });

/** The levels by which a report can be split into files. */
export const cutLevels = (sheet: SheetView | undefined): Choices => [
  ['', 'one file'],
  ...(sheet?.down ?? []).map((l): [string, string] => [l.name, `one for each ${l.name}, in a zip`]),
];

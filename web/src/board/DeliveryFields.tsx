import './board.css';

import { Checkbox, FormControlLabel } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import { get, type Delivery, type Report } from '../api/client';
import { Choose, Written } from '../parts/Field';
import { asLines, fromLines } from './delivery';

const FORMATS: [NonNullable<Delivery['formats']>[number], string][] = [
  ['pdf', 'PDF'],
  ['xlsx', 'Workbook'],
  ['html', 'HTML'],
  ['csv', 'Delimited text'],
];

/** The levels of the lines by which an edition can be split. */
const levelsOf = (report: Report) =>
  (report.down ?? []).flatMap((entry): string[] =>
    'category' in entry ? (entry.levels ?? [entry.name ?? entry.category]) : [],
  );

/** The receivers of an edition, its files, and the text. */
export function DeliveryFields({
  report,
  delivery,
  change,
}: {
  report: Report;
  delivery: Delivery | null;
  change: (delivery: Delivery | null) => void;
}) {
  const mail = useQuery({ queryKey: ['mail'], queryFn: () => get('/mail') }).data;
  const now: Delivery =
    delivery ?? ({ to: [], formats: ['pdf'], subject: '', text: '', when_issued: false } as Delivery);
  const formats = now.formats ?? [];
  const levels = levelsOf(report);
  const parted = (now.to ?? []).some((one) => one.member);
  return (
    <div className="recurring-fields">
      <Written
        label="Addresses, one a line"
        value={asLines(now)}
        lines
        clear
        help="to send a member's part alone: address = member"
        change={(text) => {
          const to = fromLines(text);
          const level = now.level ?? (to.some((one) => one.member) ? (levels[0] ?? null) : null);
          change({ ...now, to, level });
        }}
      />
      {levels.length > 0 && (parted || now.level) && (
        <Choose
          label="Members are of"
          value={now.level ?? ''}
          options={levels.map((name): [string, string] => [name, name])}
          change={(level) => change({ ...now, level })}
        />
      )}
      <div>
        {FORMATS.map(([form, words]) => (
          <FormControlLabel
            key={form}
            control={
              <Checkbox
                size="small"
                checked={formats.includes(form)}
                onChange={(_, on) =>
                  change({ ...now, formats: on ? [...formats, form] : formats.filter((f) => f !== form) })
                }
              />
            }
            label={words}
          />
        ))}
      </div>
      <Written
        label="Subject"
        value={now.subject ?? ''}
        clear
        change={(subject) => change({ ...now, subject })}
      />
      <Written label="Text" value={now.text ?? ''} lines clear change={(text) => change({ ...now, text })} />
      <Written
        label="Or a folder to put the files in"
        value={now.folder ?? ''}
        clear
        change={(folder) => change({ ...now, folder: folder || null })}
      />
      {now.folder && levels.length > 0 && (
        <Choose
          label="Put there"
          value={now.each ?? ''}
          options={[
            ['', 'the whole edition'],
            ...levels.map((name): [string, string] => [name, `a file for each ${name}`]),
          ]}
          change={(each) => change({ ...now, each: each || null })}
        />
      )}
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={now.when_issued ?? false}
            onChange={(_, on) => change({ ...now, when_issued: on })}
          />
        }
        label="send as soon as it is issued"
      />
      <Choose
        label="Readers with an account see"
        value={now.readers ?? 'words'}
        options={[
          ['nothing', 'nothing of its editions'],
          ['numbers', 'the numbers'],
          ['words', 'how each number came about, in words'],
          ['records', 'how each number came about, down to its records'],
        ]}
        change={(readers) => change({ ...now, readers: readers as NonNullable<Delivery['readers']> })}
      />
      {mail && (
        <p className="quiet">
          {mail.host
            ? mail.stand_in
              ? 'Mail goes to the stand-in that comes with the demo; see its '
              : `Mail is handed in at ${mail.host}; see `
            : 'No mail server is set yet; set it under '}
          <Link to="/mail">{mail.stand_in ? 'inbox' : 'mail'}</Link>.
        </p>
      )}
    </div>
  );
}

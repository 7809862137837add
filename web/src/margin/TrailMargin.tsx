import './trail.css';
import '../parts/margin.css';
import '../parts/note.css';

import { useQuery } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';

import { Fault, get, type BarsView, type RecordsView, type SheetView, type TrailView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { capital, count, counted, day } from '../parts/words';
import type { Questioned } from '../sheet/questioned';
import { addressed } from './addressed';
import { AllRecords } from './AllRecords';
import { Drivers } from './Drivers';
import type { SheetPlace } from '../api/paths';

/** The margin beside the sheet: the selected number explained, down to its records. */
export function TrailMargin({
  base,
  sheet,
  cell,
  close,
  mixed,
}: {
  base: SheetPlace;
  sheet: SheetView;
  cell: Questioned;
  close: () => void;
  /** Solutions for a number over several units, if the report can be changed. */
  mixed?: ReactNode;
}) {
  const [tab, setTab] = useState<'how' | 'drivers'>('how');
  const [all, setAll] = useState<string | null>(null);
  const found = useQuery({
    queryKey: ['trail', sheet.key, cell],
    queryFn: ({ signal }) => get(addressed(base, sheet, cell, 'trail'), { signal }),
    retry: false,
    staleTime: Infinity,
  });
  const trail = found.data;
  const moved = found.error instanceof Fault && found.error.status === 409;
  return (
    <aside className="margin" aria-label="Trail">
      <button className="margin-close" onClick={close} aria-label="Close the trail" title="Close (Esc)">
        ×
      </button>
      {!moved && <FaultNote error={found.error} />}
      {found.isPending && (
        <p className="margin-place" aria-live="polite">
          Looking the number up …
        </p>
      )}
      {trail && (
        <>
          <h2>{trail.lines.join(' › ') || 'Total'}</h2>
          <p className="margin-place">
            {[trail.figure, trail.columns.join(' › ')].filter(Boolean).join(' · ')}
          </p>
          <p className={`margin-number${/^[(−]/.test(trail.number) ? ' neg' : ''}`}>
            {trail.number || 'blank'}
          </p>
          {trail.driven && (
            <div className="tabs" role="tablist">
              <button role="tab" aria-selected={tab === 'how'} onClick={() => setTab('how')}>
                How
              </button>
              <button role="tab" aria-selected={tab === 'drivers'} onClick={() => setTab('drivers')}>
                What drove it
              </button>
            </div>
          )}
          {tab === 'drivers' && trail.driven ? (
            <Drivers base={base} sheet={sheet} cell={cell} />
          ) : (
            <How trail={trail} all={setAll} mixed={mixed} />
          )}
        </>
      )}
      {all !== null && trail && (
        <AllRecords
          base={base}
          sheet={sheet}
          cell={cell}
          trail={trail}
          part={all}
          close={() => setAll(null)}
        />
      )}
    </aside>
  );
}

function How({ trail, all, mixed }: { trail: TrailView; all: (part: string) => void; mixed?: ReactNode }) {
  return (
    <>
      <div className="note">
        {trail.said.map((sentence) => (
          <p key={sentence}>{sentence}</p>
        ))}
        {trail.why && <p>{capital(trail.why)}</p>}
      </div>
      {trail.mark === 'mixed' && mixed}
      {trail.parts.length > 1 && (
        <table className="parts">
          <tbody>
            {trail.parts.map((part) => (
              <tr key={part.name}>
                <th scope="row" title={part.words}>
                  {partName(part.name)}
                </th>
                <td>
                  <button className="link" onClick={() => all(part.name)}>
                    {counted(part.records, 'record')}
                  </button>
                </td>
                <td className="num">{part.number}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {trail.parts
        .filter((part) => part.by_hand > 0)
        .map((part) => (
          <p key={part.name} className="heed">
            {trail.parts.length > 1 && `${capital(partName(part.name))}: `}
            {count(part.by_hand)} of these records {part.by_hand === 1 ? 'was' : 'were'} entered by hand
            {part.by_hand_amount && ` and ${part.by_hand === 1 ? 'gives' : 'give'} ${part.by_hand_amount}`}.
          </p>
        ))}
      {trail.bars && <ByPeriod bars={trail.bars} />}
      {trail.first && (
        <First
          first={trail.first}
          part={trail.first.part === trail.parts[0]?.name ? '' : partName(trail.first.part)}
          all={() => all(trail.first?.part ?? 'value')}
        />
      )}
      {trail.parts.some((part) => part.condition) && (
        <details className="selecting">
          <summary>How the records are selected</summary>
          {trail.parts.map(
            (part) =>
              part.condition && (
                <p key={part.name}>
                  {trail.parts.length > 1 && <b>{partName(part.name)} </b>}
                  <code>{part.condition === '1 = 1' ? 'every record' : part.condition}</code>
                </p>
              ),
          )}
        </details>
      )}
    </>
  );
}

/** The number by period, with the base's beside it. */
function ByPeriod({ bars }: { bars: BarsView }) {
  const all = bars.bars;
  if (all.length < 2) return null;
  const values = all.flatMap((bar) => [bar.value, bar.base ?? 0]);
  const low = Math.min(0, ...values);
  const high = Math.max(0, ...values) || 1;
  const based = all.some((bar) => bar.base !== null);
  const width = 260 / all.length;
  const y = (n: number) => 56 - ((n - low) / (high - low)) * 54;
  const bar = (n: number, x: number, w: number, tone: string, title: string) => (
    <rect x={x} y={Math.min(y(n), y(0))} width={w} height={Math.abs(y(n) - y(0))} fill={tone}>
      <title>{title}</title>
    </rect>
  );
  const said = (n: number) => count(n, 2);
  return (
    <section>
      <h3>
        {bars.counted ? 'Records by' : 'By'} {bars.grain}
        {based && ', base beside it'}
      </h3>
      <svg viewBox="0 0 260 58" width="100%" height="58" role="img" aria-label={`By ${bars.grain}`}>
        {all.map((one, i) => {
          const w = Math.max(1, width * (based ? 0.4 : 0.8));
          return (
            <g key={one.label}>
              {one.base !== null &&
                bar(one.base, i * width, w, '#b9cfd2', `base of ${one.label}: ${said(one.base)}`)}
              {bar(
                one.value,
                i * width + (based ? w : 0),
                w,
                one.value < 0 ? '#9a2a2a' : '#0d5a6a',
                `${one.label}: ${said(one.value)}`,
              )}
            </g>
          );
        })}
      </svg>
      <p className="ends">
        <span>{all[0]?.label}</span>
        <span>{all[all.length - 1]?.label}</span>
      </p>
    </section>
  );
}

const partName = (name: string) => (name === 'value' ? 'this side' : name);

/** A day without its year, as the records of one number mostly share it. */
const briefly = (text: string) => (/^\d{4}-\d{2}-\d{2}(T|$)/.test(text) ? day(text).slice(0, -5) : text);

/** The first records of a part, with its name unless it is the number's own. */
function First({ first, part, all }: { first: RecordsView; part: string; all: () => void }) {
  if (first.total === 0) return <p className="quiet">No record stands behind it.</p>;
  return (
    <section>
      <h3>
        Records{part && ` of ${part}`}
        <button className="link" onClick={all}>
          All {count(first.total)} →
        </button>
      </h3>
      <table className="first">
        <tbody>
          {first.records.map((record, i) => (
            <tr
              key={`${record.file}${record.line}${i}`}
              className={record.by_hand ? 'by-hand' : ''}
              title={`${record.file}, line ${record.line}`}
            >
              {record.cells.map((cell, k) => (
                <td key={first.columns[k]}>{briefly(cell)}</td>
              ))}
              <td className={`num${record.amount.startsWith('(') ? ' neg' : ''}`}>{record.amount}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

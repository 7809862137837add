import { Popover, TextField } from '@mui/material';
import { useQueries } from '@tanstack/react-query';
import { useMemo, useRef, useState, type KeyboardEvent } from 'react';

import { get, type ColumnView, type Report, type SheetView, type ValueCount } from '../../api/client';
import { useGroupings, useManyChoices, useSources } from '../../api/queries';
import { FaultNote } from '../../parts/Fault';
import { listed } from '../../parts/words';
import type { Tone } from './brief';
import { freeText } from './freeText';
import type { Beginning } from './offer';
import { besideOffers, groundOf, matching, offers, valueOffers, type Offer } from './offers';

const TINTS: Record<Tone, string> = {
  figure: 'var(--ink)',
  tree: 'var(--plum)',
  period: 'var(--petrol)',
  bucket: 'var(--rust)',
  condition: 'var(--rule-strong)',
};
const FEW_VALUES = 16;

interface Props {
  open: boolean;
  anchor: HTMLElement | null;
  report: Report;
  sheet: SheetView | undefined;
  columns: ColumnView[];
  close: () => void;
  add: (report: Report) => void;
  begin: (what: Beginning) => void;
}

/** Search over everything that could be added to the sentence; a whole request can be typed, too. */
export function AddPhrase({ open, anchor, close, ...rest }: Props) {
  return (
    <Popover
      open={open}
      anchorEl={anchor}
      onClose={close}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
    >
      <Offers {...rest} />
    </Popover>
  );
}

/** The values of columns that have few, by which a typed word can be a condition. */
function useFewValues(report: Report, columns: ColumnView[]) {
  const source = useSources().data?.find((s) => s.name === report.source)?.id;
  const few = columns.filter((c) => c.kind === 'text' && c.different <= FEW_VALUES);
  const found = useQueries({
    queries: few.map((column) => ({
      queryKey: ['values', source, column.name],
      queryFn: () => get<ValueCount[]>(`/sources/${source}/values?column=${encodeURIComponent(column.name)}`),
      enabled: source !== undefined,
      retry: false,
    })),
  });
  return few.flatMap((column, i) =>
    (found[i]?.data ?? []).flatMap((v) => (v.value ? [{ column: column.name, value: v.value }] : [])),
  );
}

function Offers({ report, sheet, columns, add, begin }: Omit<Props, 'open' | 'anchor' | 'close'>) {
  const [typed, setTyped] = useState('');
  const [at, setAt] = useState(0);
  const [fault, setFault] = useState<Error | null>(null);
  const list = useRef<HTMLUListElement>(null);
  const groupings = useGroupings().data;
  const sources = useSources().data;
  const values = useFewValues(report, columns);
  const numbers = /\d+|top|fis|\b(mon|tue|wed|thu|fri|sat|sun)/i.test(typed) ? typed : '';
  const all = useMemo(() => {
    const levels = (sheet?.down ?? []).map((l) => l.name);
    return [
      ...offers(report, columns, groupings ?? [], levels, numbers),
      ...besideOffers(report, columns, sources ?? []),
    ];
  }, [report, sheet, columns, groupings, sources, numbers]);
  const ground = useMemo(() => groundOf(all), [all]);
  const choices = useManyChoices(ground.map(([kind, column]) => [kind, report.source, column]));
  const choiceOf = ({ on }: Offer) => {
    if (!on) return undefined;
    const place = ground.findIndex(([kind, column]) => kind === on.kind && column === on.column);
    return choices[place]?.data?.find((c) => c.name === on.name);
  };
  const helps = (offer: Offer) => offer.on?.kind !== 'tree' || choiceOf(offer)?.helps !== false;
  const placing = ground.flatMap(([kind, column], i) =>
    kind === 'tree'
      ? (choices[i]?.data ?? []).flatMap((c) => (c.helps && c.name ? [{ tree: c.name, column }] : []))
      : [],
  );
  const known = typed.trim().length > 1 ? [...valueOffers(values), ...all] : all;
  const found = matching(known, typed).filter(helps).slice(0, 60);
  const whole = /[\s,]/.test(typed.trim())
    ? freeText(typed, report, { columns, groupings: groupings ?? [], values, placing })
    : null;
  const hint = (offer: Offer) => {
    const gives = choiceOf(offer)?.gives ?? offer.hint;
    return gives.length > 44 ? `${gives.slice(0, 43)}…` : gives;
  };
  const take = async (place: number) => {
    try {
      if (whole && place === 0) return add(whole.report);
      const offer = found[place - (whole ? 1 : 0)];
      if (offer?.begin !== undefined) begin(offer.begin);
      else if (offer?.add) add(await offer.add(report));
    } catch (error) {
      setFault(error as Error);
    }
  };
  const many = found.length + (whole ? 1 : 0);
  const keys = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) {
      event.preventDefault();
      const next = Math.max(0, Math.min(many - 1, at + step));
      setAt(next);
      list.current?.children[next]?.scrollIntoView({ block: 'nearest' });
    }
    if (event.key === 'Enter') {
      event.preventDefault(); // else the same key presses the button that has the focus once this is closed
      void take(at);
    }
  };
  const item = (place: number) => ({
    role: 'option',
    id: `offer-${place}`,
    'aria-selected': place === at,
    className: place === at ? 'on' : '',
    onMouseEnter: () => setAt(place),
    onClick: () => void take(place),
  });
  return (
    <div className="offers" onKeyDown={keys}>
      <div className="search">
        <TextField
          autoFocus
          fullWidth
          placeholder="Search, or say it: net by route, month across, percent change"
          value={typed}
          onChange={(event) => {
            setTyped(event.target.value);
            setAt(0);
          }}
          slotProps={{
            htmlInput: {
              'aria-label': 'Search phrases',
              'aria-controls': 'offers',
              'aria-activedescendant': `offer-${at}`,
            },
          }}
        />
        <FaultNote error={fault} />
      </div>
      <ul ref={list} id="offers" role="listbox" tabIndex={0} aria-label="Phrases">
        {whole && (
          <li key="whole" {...item(0)} className={`whole${at === 0 ? ' on' : ''}`}>
            <span>{whole.said}</span>
            {whole.left.length > 0 && <small>not understood: {listed(whole.left)}</small>}
          </li>
        )}
        {found.map((offer, i) => (
          <li key={`${offer.text}${i}`} {...item(i + (whole ? 1 : 0))}>
            <span className="tint" style={{ background: TINTS[offer.tone] }} />
            {offer.text}
            <small>{hint(offer)}</small>
          </li>
        ))}
        {many === 0 && (
          <li className="quiet">Nothing of that name. Try a column, or a word such as average.</li>
        )}
      </ul>
    </div>
  );
}

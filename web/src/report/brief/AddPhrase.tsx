import { Popover, TextField } from '@mui/material';
import { useMemo, useRef, useState, type KeyboardEvent } from 'react';

import type { ColumnView, Report, SheetView } from '../../api/client';
import { useGroupings, useManyChoices, useSources } from '../../api/queries';
import type { Tone } from './brief';
import { besideOffers, groundOf, matching, offers, type Offer } from './offers';

const TINTS: Record<Tone, string> = {
  figure: 'var(--ink)',
  tree: 'var(--plum)',
  period: 'var(--petrol)',
  bucket: 'var(--rust)',
  condition: 'var(--rule-strong)',
};

interface Props {
  open: boolean;
  anchor: HTMLElement | null;
  report: Report;
  sheet: SheetView | undefined;
  columns: ColumnView[];
  close: () => void;
  add: (report: Report) => void;
}

/** Search over everything that could be added to the sentence. */
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

function Offers({ report, sheet, columns, add }: Pick<Props, 'report' | 'sheet' | 'columns' | 'add'>) {
  const [typed, setTyped] = useState('');
  const [at, setAt] = useState(0);
  const list = useRef<HTMLUListElement>(null);
  const groupings = useGroupings().data;
  const sources = useSources().data;
  const all = useMemo(() => {
    const levels = (sheet?.down ?? []).map((l) => l.name);
    return [
      ...offers(report, columns, groupings ?? [], levels),
      ...besideOffers(report, columns, sources ?? []),
    ];
  }, [report, sheet, columns, groupings, sources]);
  const found = useMemo(() => matching(all, typed).slice(0, 60), [all, typed]);
  const ground = useMemo(() => groundOf(all), [all]);
  const choices = useManyChoices(ground.map(([kind, column]) => [kind, report.source, column]));
  const hint = ({ on, hint: plain }: Offer) => {
    const at = ground.findIndex(([kind, column]) => kind === on?.kind && column === on.column);
    const gives = choices[at]?.data?.find((c) => c.name === on?.name)?.gives ?? plain;
    return gives.length > 44 ? `${gives.slice(0, 43)}…` : gives;
  };
  const take = async (offer: Offer | undefined) => {
    if (offer) add(await offer.add(report));
  };
  const keys = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) {
      event.preventDefault();
      const next = Math.max(0, Math.min(found.length - 1, at + step));
      setAt(next);
      list.current?.children[next]?.scrollIntoView({ block: 'nearest' });
    }
    if (event.key === 'Enter') void take(found[at]);
  };
  return (
    <div className="offers" onKeyDown={keys}>
      <div className="search">
        <TextField
          autoFocus
          fullWidth
          placeholder="Search: sum, a column, month, share…"
          value={typed}
          onChange={(event) => {
            setTyped(event.target.value);
            setAt(0);
          }}
          slotProps={{ htmlInput: { 'aria-label': 'Search phrases' } }}
        />
      </div>
      <ul ref={list} role="listbox" aria-label="Phrases">
        {found.map((offer, i) => (
          <li
            key={`${offer.text}${i}`}
            role="option"
            aria-selected={i === at}
            className={i === at ? 'on' : ''}
            onMouseEnter={() => setAt(i)}
            onClick={() => void take(offer)}
          >
            <span className="tint" style={{ background: TINTS[offer.tone] }} />
            {offer.text}
            <small>{hint(offer)}</small>
          </li>
        ))}
        {found.length === 0 && (
          <li className="quiet">Nothing of that name. Try a column, or a take such as mean.</li>
        )}
      </ul>
    </div>
  );
}

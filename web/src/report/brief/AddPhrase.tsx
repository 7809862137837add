import { useQueries } from '@tanstack/react-query';
import { useMemo, useState } from 'react';

import { get, type ColumnView, type Report, type SheetView, type ValueCount } from '../../api/client';
import { useGroupings, useManyChoices, useSources } from '../../api/queries';
import type { Beginning } from './offer';
import { besideOffers, groundOf, matching, offers, valueOffers, type Offer } from './offers';
import { Say } from './Say';

const FEW_VALUES = 16;
const LONGEST_HINT = 44;

interface Props {
  report: Report;
  sheet: SheetView | undefined;
  columns: ColumnView[];
  close: () => void;
  add: (report: Report) => void;
  begin: (what: Beginning) => void;
  tried: (report: Report | null) => void;
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

/** A sentence typed to be added to the report, with every phrase that could be among what is offered. */
export function AddPhrase({ report, sheet, columns, close, add, begin, tried }: Props) {
  const [typed, setTyped] = useState('');
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
  const hinted = (offer: Offer): Offer => {
    const gives = choiceOf(offer)?.gives ?? offer.hint;
    return { ...offer, hint: gives.length > LONGEST_HINT ? `${gives.slice(0, LONGEST_HINT - 1)}…` : gives };
  };
  const phrases = (text: string) => {
    const known = text.trim().length > 1 ? [...valueOffers(values), ...all] : all;
    const helps = (offer: Offer) => offer.on?.kind !== 'tree' || choiceOf(offer)?.helps !== false;
    return matching(known, text).filter(helps).map(hinted);
  };
  const take = async (offer: Offer) => {
    if (offer.begin !== undefined) begin(offer.begin);
    else if (offer.add) add(await offer.add(report));
  };
  return (
    <Say
      source={report.source}
      report={report}
      phrases={phrases}
      typing={setTyped}
      takePhrase={take}
      take={add}
      tried={tried}
      close={close}
    />
  );
}

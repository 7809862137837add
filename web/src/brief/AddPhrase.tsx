import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { get, post, type ColumnView, type Calendar, type Phrase, type Report } from '../api/client';
import { useManyChoices, useSources } from '../api/queries';
import { withBeside } from '../editors/beside';
import { Say } from './Say';

/** What a condition that begins empty is about: a column of the records, or the lines of a level. */
export type Beginning = { only: string } | { keep: string };

const LONGEST_HINT = 44;

interface Props {
  report: Report;
  columns: ColumnView[];
  close: () => void;
  add: (report: Report) => void;
  begin: (what: Beginning) => void;
  tried: (report: Report | null) => void;
}

/** The phrases that answer a text; while they are asked for, those of the text before. */
function usePhrases(report: Report, text: string): { phrases: Phrase[]; old: boolean } {
  const { data, isPlaceholderData } = useQuery({
    queryKey: ['phrases', report, text],
    queryFn: ({ signal }) => post('/sentence/phrases', { text, document: report }, { signal }),
    placeholderData: keepPreviousData,
    retry: false,
  });
  return { phrases: data ?? [], old: isPlaceholderData };
}

/** The phrases with what their groupings would give as hints; those whose tree places nothing are left out. */
function useHinted(report: Report, phrases: Phrase[]): Phrase[] {
  const places = phrases.flatMap(({ on }) => (on ? [on] : []));
  const ground = [...new Map(places.map((on) => [`${on.kind} ${on.column}`, on])).values()];
  const choices = useManyChoices(ground.map((on) => [on.kind, report.source, on.column]));
  return phrases.flatMap((phrase) => {
    const place = ground.findIndex((on) => on.kind === phrase.on?.kind && on.column === phrase.on.column);
    const choice = choices[place]?.data?.find((one) => one.name === phrase.on?.name);
    if (phrase.on?.kind === 'tree' && choice?.helps === false) return [];
    const gives = choice?.gives ?? phrase.hint;
    return [
      { ...phrase, hint: gives.length > LONGEST_HINT ? `${gives.slice(0, LONGEST_HINT - 1)}…` : gives },
    ];
  });
}

/** A sentence typed to be added to the report, with every phrase that could be among what is offered. */
export function AddPhrase({ report, columns, close, add, begin, tried }: Props) {
  const [typed, setTyped] = useState('');
  const { phrases: found, old } = usePhrases(report, typed);
  const phrases = useHinted(report, found);
  const sources = useSources().data;
  const take = async ({ begin: begun, makes, text }: Phrase) => {
    if (begun.only !== undefined) begin({ only: begun.only });
    else if (begun.keep !== undefined) begin({ keep: begun.keep });
    else if (begun.beside !== undefined) {
      const id = sources?.find((source) => source.name === begun.beside)?.id;
      const { columns: theirs } = await get(`/sources/${id}`);
      add(withBeside(report, begun.beside, columns, theirs));
    } else {
      if (makes) await made(makes);
      add(await heardAs(report, text));
    }
  };
  return (
    <Say
      source={report.source}
      report={report}
      phrases={phrases}
      old={old}
      typing={setTyped}
      takePhrase={take}
      take={add}
      tried={tried}
      close={close}
    />
  );
}

/** A calendar made, unless one of its name is there. */
async function made(calendar: Record<string, unknown>) {
  const known = await get('/groupings');
  if (!known.some((grouping) => grouping.name === calendar.name))
    await post('/groupings', { kalendor: 1, kind: 'calendar', ...calendar } as Calendar);
}

/** The report with a phrase added, as the server reads it. */
async function heardAs(report: Report, text: string): Promise<Report> {
  const heard = await post('/sentence/read', { text, source: report.source, document: report });
  const added = heard.offers.find((offer) => offer.way === 'add');
  if (!added?.document || !added.whole) throw new Error(added?.why ?? `“${text}” does not fit this report.`);
  return added.document;
}

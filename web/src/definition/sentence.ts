import { keepPreviousData, useQuery } from '@tanstack/react-query';

import { useState } from 'react';

import { Fault, get, post, type Report, type Shown } from '../api/client';

export type Tone = 'figure' | 'tree' | 'period' | 'bucket' | 'condition';
export type PhraseKind =
  | 'figure'
  | 'down'
  | 'across'
  | 'only'
  | 'window'
  | 'beside'
  | 'keep'
  | 'totals'
  | 'layout'
  | 'records'
  | 'lines'
  | 'sight'
  | 'silenced';

/** A part of the sentence that can be changed; `index` is its place in the report's list of that kind, `full` its words with
 * nothing left unsaid. */
export interface Phrase {
  kind: PhraseKind;
  index: number;
  text: string;
  tone: Tone;
  full?: string;
}

const EDITABLE: readonly string[] = [
  'figure',
  'down',
  'across',
  'only',
  'window',
  'beside',
  'keep',
  'totals',
  'layout',
  'records',
  'lines',
  'sight',
  'silenced',
];

const AGAIN = 1500;

/** The query key of a report's sentence. */
export const sentenceKey = (report: Report | undefined) => ['sentence', report];

const sentenceQuery = (report: Report | undefined, awaited: boolean) => ({
  queryKey: sentenceKey(report),
  queryFn: ({ signal }: { signal: AbortSignal }): Promise<Shown> =>
    post('/sentence', report as Report, { signal }),
  enabled: report !== undefined && !awaited,
  placeholderData: keepPreviousData<Shown>,
  staleTime: 60_000,
  retry: (_: number, fault: Error) => fault instanceof Fault && fault.status === 0,
  retryDelay: AGAIN,
});

/** Whether a report's sentence is loaded or unavailable; otherwise what is beneath it would move when it arrives. */
export function useSentenceThere(report: Report | undefined, awaited: boolean): boolean {
  const { data, failureCount } = useQuery(sentenceQuery(report, awaited));
  const now = data !== undefined || failureCount > 0;
  const [was, setWas] = useState(now);
  if (now && !was) setWas(true);
  return now || was;
}

/** A report's sentence as the server words it; while it is asked for, or no server answers, the one before, which is `old`:
 * its phrases may stand elsewhere in the report by now. `awaited`: it comes with the answer to an edit, and is not asked for. */
export function useSentence(
  report: Report | undefined,
  awaited = false,
): { worded: Shown | undefined; old: boolean } {
  const { data, isPlaceholderData } = useQuery(sentenceQuery(report, awaited));
  const [last, setLast] = useState(data);
  if (data !== undefined && data !== last) setLast(data);
  return { worded: data ?? last, old: data === undefined || isPlaceholderData };
}

/** The phrases of a sentence and the words that join them. */
export const phrasesOf = (worded: Shown | undefined): (string | Phrase)[] =>
  (worded?.pieces ?? []).map((piece, i) =>
    EDITABLE.includes(piece.kind)
      ? {
          kind: piece.kind as PhraseKind,
          index: piece.index,
          text: piece.text,
          tone: piece.tone as Tone,
          full: worded?.full[i] ?? '',
        }
      : piece.text,
  );

/** A report's sentence as text to edit; loaded once `wanted`. */
export const useTypedSentence = (report: Report, wanted: boolean) =>
  useQuery({
    queryKey: ['typed', report],
    queryFn: ({ signal }) => post('/sentence', report, { signal }),
    enabled: wanted,
  }).data?.typed;

/** What a typed text would make of a report; while loading, the answer for the previous text. */
export const useHeard = (text: string, source: string, document: Report | undefined) =>
  useQuery({
    queryKey: ['heard', text, source, document],
    queryFn: ({ signal }) => post('/sentence/read', { text, source, document: document ?? null }, { signal }),
    enabled: text.trim() !== '' && source !== '',
    placeholderData: keepPreviousData,
    retry: false,
  });

/** Example sentences for a source. */
export const useExamples = (source: string) =>
  useQuery({
    queryKey: ['examples', source],
    queryFn: () => get(`/sentence/examples?source=${encodeURIComponent(source)}`),
    enabled: source !== '',
    retry: false,
  }).data ?? [];

/** The labels of grains, takes, totals and bases. */
export const useLabels = () =>
  useQuery({
    queryKey: ['labels'],
    queryFn: () => get('/sentence/labels'),
    staleTime: Infinity,
  }).data;

/** A grain in words: `month`, `month of year`, `7-day run`. */
export const grainWords = (grain: string | { days: number }) =>
  typeof grain === 'string' ? grain.replaceAll('_', ' ') : `${grain.days}-day run`;

import { keepPreviousData, useQuery } from '@tanstack/react-query';

import { get, post, type HeardText, type Report, type Worded } from '../../api/client';

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

/** A report's sentence as the server words it; while it is asked for, the one before. */
export const useSentence = (report: Report | undefined) =>
  useQuery({
    queryKey: ['sentence', report],
    queryFn: ({ signal }) => post<Worded>('/sentence', report, { signal }),
    enabled: report !== undefined,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
    retry: false,
  }).data;

/** The phrases of a sentence and the words that join them. */
export const phrasesOf = (worded: Worded | undefined): (string | Phrase)[] =>
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

/** What a typed text would make of a report; while it is asked for, the answer to the text before. */
export const useHeard = (text: string, source: string, document: Report | undefined) =>
  useQuery({
    queryKey: ['heard', text, source, document],
    queryFn: ({ signal }) =>
      post<HeardText>('/sentence/read', { text, source, document: document ?? null }, { signal }),
    enabled: text.trim() !== '' && source !== '',
    placeholderData: keepPreviousData,
    retry: false,
  });

/** Sentences that a source's columns answer. */
export const useExamples = (source: string) =>
  useQuery({
    queryKey: ['examples', source],
    queryFn: () => get<string[]>(`/sentence/examples?source=${encodeURIComponent(source)}`),
    enabled: source !== '',
    retry: false,
  }).data ?? [];

/** What grains, takes, totals and bases are called. */
export const useLabels = () =>
  useQuery({
    queryKey: ['labels'],
    queryFn: () => get<Record<string, Record<string, string>>>('/sentence/labels'),
    staleTime: Infinity,
  }).data;

/** A grain as it is said: `month`, `month of year`, `7-day run`. */
export const grainWords = (grain: string | { days: number }) =>
  typeof grain === 'string' ? grain.replaceAll('_', ' ') : `${grain.days}-day run`;

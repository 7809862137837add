import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query';

import { get, post, type Report } from './client';

export const useWorkspace = () => useQuery({ queryKey: ['workspace'], queryFn: () => get('/workspace') });

export const useSources = () => useQuery({ queryKey: ['sources'], queryFn: () => get('/sources') });

export const sourceQuery = (id: number | undefined) => ({
  queryKey: ['source', id],
  queryFn: () => get(`/sources/${id}`),
});

export const useSource = (id: number | undefined) =>
  useQuery({ ...sourceQuery(id), enabled: id !== undefined });

export const useReports = () => useQuery({ queryKey: ['reports'], queryFn: () => get('/reports') });

export const useReport = (id: number) =>
  useQuery({ queryKey: ['report', id], queryFn: () => get(`/reports/${id}`) });

export const useSheet = (id: number, revision: number | undefined, inView: string) =>
  useQuery({
    queryKey: ['sheet', id, revision],
    queryFn: ({ signal }) => get(`/reports/${id}/sheet?${inView}`, { signal }),
    enabled: revision !== undefined,
    placeholderData: keepPreviousData,
    staleTime: 2000, // what came with an edit's answer is not asked for again
    retry: false,
  });

/** The sheet of an unsaved report; while loading, the previous one. */
export const useTriedSheet = (report: Report | null, inView: string) =>
  useQuery({
    queryKey: ['tried', report, inView],
    queryFn: ({ signal }) => post(`/reports/tried/sheet?${inView}`, report as Report, { signal }),
    enabled: report !== null,
    placeholderData: keepPreviousData,
    gcTime: 30_000,
    retry: false,
  });

export const useGroupings = () => useQuery({ queryKey: ['groupings'], queryFn: () => get('/groupings') });

export const useValues = (source: number | undefined, column: string) =>
  useQuery({
    queryKey: ['values', source, column],
    queryFn: () => get(`/sources/${source}/values?column=${encodeURIComponent(column)}`),
    enabled: source !== undefined && column !== '',
    retry: false,
  });

type ChoiceKind = 'tree' | 'calendar' | 'buckets';
const choicesOf = (kind: ChoiceKind, source: string, column: string) => ({
  queryKey: ['groupings', 'choices', kind, source, column],
  queryFn: () => {
    const asked = new URLSearchParams({ kind, source, column });
    return get(`/choices?${asked.toString()}`);
  },
  enabled: source !== '' && column !== '',
  retry: false,
});

/** What each grouping of a kind would give on a column. */
export const useChoices = (kind: ChoiceKind, source: string, column: string) =>
  useQuery(choicesOf(kind, source, column));

/** The same for several columns at once, in the order asked. */
export const useManyChoices = (asked: [ChoiceKind, string, string][]) =>
  useQueries({ queries: asked.map((one) => choicesOf(...one)) });

/** The databases that can be queried. */
export const useConnections = () =>
  useQuery({
    queryKey: ['connections'],
    queryFn: () => get('/connections'),
    staleTime: Infinity,
  });

/** The folders beneath which folders can be linked. */
export const useFolders = () =>
  useQuery({
    queryKey: ['folders'],
    queryFn: () => get('/folders'),
    staleTime: Infinity,
  });

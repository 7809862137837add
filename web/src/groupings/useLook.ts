import { keepPreviousData, useQuery } from '@tanstack/react-query';

/**
 * What a grouping does with the data, asked again at each change of its draft.
 *
 * Until an answer is here the one before stands. `asked` is the draft that `found` answers, so that nothing is said of
 * one draft with the numbers of another; `busy` says that an answer is on its way, the first or another.
 */
export function useLook<Asked, Found>(
  kind: string,
  draft: Asked,
  ask: (draft: Asked) => Promise<Found>,
): { found: Found | undefined; asked: Asked; busy: boolean; error: Error | null } {
  const look = useQuery({
    queryKey: ['look', kind, JSON.stringify(draft)],
    queryFn: async () => ({ asked: draft, found: await ask(draft) }),
    placeholderData: keepPreviousData,
    retry: false,
  });
  return {
    found: look.data?.found,
    asked: look.data?.asked ?? draft,
    busy: look.isPending || look.isPlaceholderData,
    error: look.error,
  };
}

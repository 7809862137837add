import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect } from 'react';

import { forget, onSignedOut, session, type SessionView } from '../api/asking';

const HINT = 'kalendor-accounts';

/** Who is signed in; undefined until it is known. `awaited`: nothing is shown before, as people sign in here. */
export function useSession() {
  const queries = useQueryClient();
  const found = useQuery({ queryKey: ['session'], queryFn: session, staleTime: Infinity, retry: false });
  const again = useCallback(() => {
    forget();
    queries.removeQueries({ predicate: (query) => query.queryKey[0] !== 'session' });
    void queries.refetchQueries({ queryKey: ['session'] });
  }, [queries]);
  useEffect(() => onSignedOut(() => void queries.invalidateQueries({ queryKey: ['session'] })), [queries]);
  const now: SessionView | undefined = found.data;
  useEffect(() => {
    if (now) localStorage.setItem(HINT, now.accounts ? '1' : '');
  }, [now]);
  return { now, awaited: !now && localStorage.getItem(HINT) === '1', again };
}

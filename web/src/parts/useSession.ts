import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect } from 'react';

import { forget, onSignedOut, session, type SessionView } from '../api/asking';
import { writeInOwn } from './notation';

/** Whether people sign in here, as the server said with the page. */
const signInNeeded = () => document.querySelector('meta[name="sign-in"]') !== null;

/** Who is signed in; undefined until it is known. `awaited`: nothing is shown before, as people sign
 * in here, or as it tells how numbers are written. */
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
  if (now) writeInOwn(now.notation);
  return { now, awaited: !now && (signInNeeded() || !found.isError), again };
}

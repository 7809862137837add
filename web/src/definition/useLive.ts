import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';

/** Refetch a report whenever its revision on the server changes, while this window is visible. */
export function useLive(id: number, revision: number | undefined) {
  const queries = useQueryClient();
  const known = useRef(revision);
  useEffect(() => {
    known.current = revision;
  }, [revision]);
  useEffect(() => {
    let events: EventSource | null = null;
    const listen = () => {
      if (document.hidden) {
        events?.close();
        events = null;
      } else if (!events) {
        events = new EventSource(`/api/reports/${id}/events`);
        events.onmessage = ({ data }) => {
          if (known.current !== undefined && Number(data) !== known.current)
            void queries.invalidateQueries({ queryKey: ['report', id] });
        };
      }
    };
    listen();
    document.addEventListener('visibilitychange', listen);
    return () => {
      document.removeEventListener('visibilitychange', listen);
      events?.close();
    };
  }, [id, queries]);
}

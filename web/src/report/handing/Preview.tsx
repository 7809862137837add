import './handing.css';

import { useQuery } from '@tanstack/react-query';

import { get } from '../../api/client';
import { FaultNote } from '../../parts/Fault';

/** What the file would be: its first page, or its first lines, and what is in it. */
export function Preview({ id, revision, query }: { id: number; revision: number; query: string }) {
  const found = useQuery({
    queryKey: ['preview', id, revision, query],
    queryFn: () => get(`/reports/${id}/preview?${query}`),
    placeholderData: (before) => before,
    retry: false,
  });
  const said = found.data;
  return (
    <section className="preview" aria-label="Preview">
      <FaultNote error={found.error} />
      {said?.picture && (
        <img
          key={revision}
          src={`/api/reports/${id}/preview.png?revision=${revision}`}
          alt="The first page"
          className="preview-page"
        />
      )}
      {said && !said.picture && <pre className="preview-text">{said.text}</pre>}
      {said && (
        <p className="say">
          <b>{said.name}</b>
          {said.facts.map((fact) => (
            <span key={fact}> · {fact}</span>
          ))}
        </p>
      )}
    </section>
  );
}

import './handing.css';

import { FaultNote } from '../../parts/Fault';
import type { usePreview } from './usePreview';

interface Props {
  id: number;
  revision: number;
  found: ReturnType<typeof usePreview>;
}

/** What the file would be: its first page, or its first lines, and what is in it. */
export function Preview({ id, revision, found }: Props) {
  const said = found.data;
  return (
    <section className="preview" aria-label="Preview" aria-busy={found.isPlaceholderData}>
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

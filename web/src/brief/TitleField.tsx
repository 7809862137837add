import './brief.css';

import { useState } from 'react';

/** The report's title, changed in place. */
export function TitleField({ title, change }: { title: string; change: (title: string) => void }) {
  const [draft, setDraft] = useState<string | null>(null);
  const done = () => {
    if (draft !== null && draft.trim() && draft.trim() !== title) change(draft.trim());
    setDraft(null);
  };
  return (
    <h1>
      <input
        className="title-field"
        aria-label="Title"
        value={draft ?? title}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={done}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
          if (event.key === 'Escape') setDraft(null);
        }}
      />
    </h1>
  );
}

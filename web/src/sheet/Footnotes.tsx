import './sheet.css';

import type { SheetView } from '../api/client';

/** The notes under a sheet, in the order of their marks; `remove` deletes one, if allowed. */
export function Footnotes({ sheet, remove }: { sheet: SheetView; remove?: (at: number) => void }) {
  if (sheet.footnotes.length === 0) return null;
  return (
    <ol className="footnotes" aria-label="Notes">
      {sheet.footnotes.map((note, i) => (
        <li key={note.text}>
          <sup>{i + 1}</sup> {note.text}
          {remove && (
            <button aria-label={`Remove the note ${i + 1}`} title="Remove the note" onClick={() => remove(i)}>
              ×
            </button>
          )}
        </li>
      ))}
    </ol>
  );
}

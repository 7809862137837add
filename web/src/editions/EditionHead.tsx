import './editions.css';

import type { EditionView } from '../api/client';
import { capital, counted, day, inFull } from '../parts/words';

const ORDINALS = ['th', 'st', 'nd', 'rd'];
export function ordinal(n: number): string {
  const teen = n % 100 > 10 && n % 100 < 14;
  return `${n}${teen ? 'th' : (ORDINALS[n % 10] ?? 'th')}`;
}

const at = (iso: string) => `${day(iso)}, ${iso.slice(11, 16)}`;

/** The head of an edition: which one it is, when it was issued, and its headline. */
export function EditionHead({ found }: { found: EditionView }) {
  const { edition } = found;
  const again = edition.number > 1;
  return (
    <div className="edition-head">
      <p className="stamp" style={{ margin: 0 }}>
        <b>
          {inFull(edition.label)}
          {again && ` · ${ordinal(edition.number)} edition`}
        </b>
        <span>
          {again
            ? `restated ${at(edition.issued_at)} · first issued ${day(found.first_issued_at)}`
            : `issued ${at(edition.issued_at)}`}
          {edition.issued_by && ` by ${edition.issued_by}`}
        </span>
        <span className="rests">
          as of {day(found.as_of)} · {found.source}, {counted(found.files, 'file')}
        </span>
      </p>
      {found.approved_by && (
        <p className="edition-line">
          Prepared by {found.prepared_by}, approved by {found.approved_by}
        </p>
      )}
      {found.line && <p className="edition-line">Issued again: {found.line}</p>}
      {found.as_is && <p className="edition-line">Moved since, and left as it is: {found.as_is}</p>}
      {found.beneath && <p className="edition-line">{capital(found.beneath)}.</p>}
      <h1>{edition.title}</h1>
      {found.headline.length > 0 && <p className="edition-lead">{found.headline.join(' ')}</p>}
    </div>
  );
}

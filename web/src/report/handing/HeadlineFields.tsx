import './handing.css';

import { useQuery } from '@tanstack/react-query';

import { get, type Report } from '../../api/client';
import { Written } from '../../parts/Field';

/** The headline of the sheet: generated, or the analyst's own, which is flagged when its numbers have changed. */
export function HeadlineFields({
  id,
  revision,
  report,
  change,
}: {
  id: number;
  revision: number;
  report: Report;
  change: (report: Report) => void;
}) {
  const found = useQuery({
    queryKey: ['headline', id, revision],
    queryFn: () => get(`/reports/${id}/headline`),
    placeholderData: (before) => before,
    retry: false,
  }).data;
  if (!found) return null;
  const write = (text: string) => {
    const sentences = text.split('\n').map((line) => line.trim()).filter(Boolean); // prettier-ignore
    change({ ...report, headline: { sentences, given: found.given } });
  };
  const byRules = () => change({ ...report, headline: null });
  return (
    <div className="headline">
      <Written
        label="Headline, a sentence a line"
        multiline
        clear
        value={found.sentences.join('\n')}
        change={write}
      />
      {found.moved && (
        <p className="warn">
          The numbers have moved since this was written. They now say: {found.given.join(' ')}
        </p>
      )}
      {found.own && (
        <button className="link" onClick={byRules}>
          Write it from the numbers again
        </button>
      )}
    </div>
  );
}

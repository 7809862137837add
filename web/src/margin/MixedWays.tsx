import './trail.css';

import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';

import { get, type Report } from '../api/client';
import { FaultNote } from '../parts/Fault';

/** Solutions for a number that would mix several units: a group for each, or converted amounts. */
export function MixedWays({
  id,
  revision,
  figure,
  change,
}: {
  id: number;
  revision: number | undefined;
  figure: string;
  change: (report: Report) => void;
}) {
  const found = useQuery({
    queryKey: ['mixed', id, revision, figure],
    queryFn: ({ signal }) => get(`/reports/${id}/mixed?figure=${encodeURIComponent(figure)}`, { signal }),
    retry: false,
  });
  if (found.error) return <FaultNote error={found.error} />;
  if (!found.data?.length) return null;
  return (
    <div className="mixed-ways" role="group" aria-label="What can be done">
      {found.data.map((way) => (
        <Button key={way.said} variant="outlined" size="small" onClick={() => change(way.report)}>
          <span>
            {way.said}
            {way.example && <small>{way.example}</small>}
          </span>
        </Button>
      ))}
    </div>
  );
}

import './board.css';
import '../parts/state.css';

import { Button } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';

import { get, post, type CheckedView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { MovedDialog } from './MovedDialog';
import type { Picked } from './picking';

const MARKS = { ok: '✓', look: '!', stop: '✗' };
const SAID = { ok: 'fine', look: 'to be looked at', stop: 'not as it should be' };
const WEEKDAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** `2026-08-05` as `Wed 5 Aug`. */
function onDay(iso: string): string {
  const at = new Date(`${iso}T12:00:00Z`);
  return `${WEEKDAYS[at.getUTCDay()]} ${at.getUTCDate()} ${MONTHS[at.getUTCMonth()]}`;
}

/**
 * The selected crossing: whether the source is complete and the sheet foots, what is unplaced, what moved, and its
 * main numbers.
 */
export function BoardMargin({ picked }: { picked: Picked | null }) {
  const found = useQuery({
    queryKey: ['checks', picked?.report, picked?.lastDay],
    queryFn: ({ signal }) => get(`/reports/${picked?.report}/periods/${picked?.lastDay}`, { signal }),
    enabled: picked !== null,
    placeholderData: (before) => before,
    retry: false,
  });
  const checked = found.data;
  return (
    <aside className="board-margin" aria-label="The chosen edition" aria-busy={found.isPlaceholderData}>
      <FaultNote error={found.error} />
      {!picked && <p className="quiet">Choose a crossing to see whether its edition is ready.</p>}
      {checked && <Checked checked={checked} />}
    </aside>
  );
}

function Checked({ checked }: { checked: CheckedView }) {
  const queries = useQueryClient();
  const go = useNavigate();
  const issuing = useMutation({
    mutationFn: () => post(`/reports/${checked.report}/periods/${checked.last_day}/issue`),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ['board'] });
      void queries.invalidateQueries({ queryKey: ['checks'] });
    },
  });
  const seeing = useMutation({
    mutationFn: (how: 'prepare' | 'approve') =>
      post(`/reports/${checked.report}/periods/${checked.last_day}/${how}`),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['checks'] }),
  });
  const mayIssue = checked.four_eyes === '' || checked.four_eyes === 'approved';
  const [leaving, setLeaving] = useState(false);
  const issued = checked.edition !== null && checked.edition !== undefined;
  const open = () => void go(issued ? `/editions/${checked.edition}` : `/reports/${checked.report}`);
  return (
    <>
      <h2>{checked.title}</h2>
      <p className="place">
        {checked.label} ·{' '}
        {issued ? (checked.moved ? 'issued, and moved since' : 'issued') : `due ${onDay(checked.due)}`}
      </p>
      <div className="checks">
        {checked.checks.map((check) => (
          <Check key={check.kind + check.words} {...check} />
        ))}
      </div>
      <FaultNote error={issuing.error ?? seeing.error} />
      <div className="board-buttons">
        {(!issued || checked.moved) && !mayIssue && (
          <Button
            variant="contained"
            color="secondary"
            disabled={seeing.isPending}
            onClick={() => seeing.mutate(checked.four_eyes === 'approve' ? 'approve' : 'prepare')}
            title={
              checked.four_eyes === 'approve'
                ? 'For another account than the one that prepared it'
                : 'Another account is to approve it before it is issued'
            }
          >
            {checked.four_eyes === 'approve' ? 'Approve' : 'It is prepared'}
          </Button>
        )}
        {(!issued || checked.moved) && mayIssue && (
          <Button
            variant="contained"
            color="secondary"
            data-issue
            disabled={issuing.isPending || checked.checks.some((c) => c.kind === 'worked_out')}
            onClick={() => issuing.mutate()}
            title="I"
          >
            {issued ? 'Issue again' : `Issue ${checked.label} edition`}
          </Button>
        )}
        <Button variant="outlined" data-open onClick={open} title="Enter">
          {issued ? 'Open edition' : 'Open'}
        </Button>
        {issued && checked.moved && (
          <Button component={Link} to={`/editions/${checked.edition}?against=now`}>
            What moved
          </Button>
        )}
        {issued && checked.moved && !checked.as_is && (
          <Button onClick={() => setLeaving(true)}>Leave as it is</Button>
        )}
      </div>
      {checked.as_is && <p className="quiet">Left as it is: {checked.as_is}</p>}
      {leaving && (
        <MovedDialog
          editions={[{ id: checked.edition as number, title: checked.title, label: checked.label }]}
          close={() => setLeaving(false)}
        />
      )}
      {checked.lines.length > 0 && (
        <>
          <p className="margin-section">
            What {checked.label} {issued ? 'would say now' : 'will say'}
            {checked.figure && ` · ${checked.figure}`}
          </p>
          <table className="will-say">
            <tbody>
              {checked.lines.map((line) => (
                <tr key={line.label} className={line.total ? 'total' : ''}>
                  <td>{line.label}</td>
                  <td className="num">{line.value}</td>
                  <td className={`num${line.change.startsWith('(') ? ' neg' : ''}`}>{line.change}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {checked.headline.length > 0 && (
        <>
          <p className="margin-section">Its headline</p>
          <p className="headline-words">{checked.headline.join(' ')}</p>
        </>
      )}
    </>
  );
}

function Check({ state, words }: CheckedView['checks'][number]) {
  return (
    <>
      <span className={`mark ${state}`} role="img" aria-label={SAID[state]}>
        {MARKS[state]}
      </span>
      <span>{words}</span>
    </>
  );
}

import '../intake/intake.css';
import '../parts/list.css';
import './start.css';

import { Button } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import { post } from '../api/client';
import { Masthead } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { ChooseFile, dropping } from '../intake/ChooseFile';
import { ReadingNote } from '../intake/HowFar';
import { useBringingIn } from '../intake/useBringingIn';
import { Waiting } from '../intake/Waiting';

/** An empty workspace: a place to drop a file, what happens next in three pictures, and the demo. */
export function Welcome() {
  const go = useNavigate();
  const queries = useQueryClient();
  const way = useBringingIn('', () => go('/reports'));
  const [over, setOver] = useState(false);
  const demo = useMutation({
    mutationFn: () => post('/demo'),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <>
      <Masthead title="Begin">
        <ChooseFile take={way.look} busy={way.busy} />
      </Masthead>
      {way.waiting ? (
        <Waiting way={way} waiting={way.waiting} />
      ) : (
        <main className="list-page welcome" {...dropping(way.look, setOver)}>
          <h1>From an export to the report you owe, every month.</h1>
          <FaultNote error={way.error ?? demo.error} />
          <ReadingNote way={way} />
          <div className={`drop welcome-drop${over ? ' over' : ''}`}>
            <b>Drop an export here</b>
            <span>
              Delimited text, a workbook, Parquet or JSON. You see how each column was read before anything is
              kept.
            </span>
          </div>
          <ol className="steps-ahead">
            <li>
              <Reading />
              <b>It is read</b>
              <span>Dates, amounts and codes are told apart; totals and odd lines are pointed out.</span>
            </li>
            <li>
              <Saying />
              <b>You say what you want</b>
              <span>A report is one sentence. Three that fit your columns are proposed at once.</span>
            </li>
            <li>
              <Adding />
              <b>It adds up</b>
              <span>Each number opens to its records, and the strip below accounts for every one.</span>
            </li>
          </ol>
          <p className="welcome-demo">
            No file at hand?{' '}
            <Button variant="outlined" onClick={() => demo.mutate()} disabled={demo.isPending}>
              {demo.isPending ? 'Writing the demo…' : 'Open the demo'}
            </Button>{' '}
            <span className="quiet">three years of a made-up ferry line, ready to try.</span>
          </p>
        </main>
      )}
      <footer className="tie">
        <span>
          Nothing is here yet<span className="arrow">·</span>drop a file anywhere to import it
        </span>
      </footer>
    </>
  );
}

const Frame = ({ children }: { children: React.ReactNode }) => (
  <svg viewBox="0 0 200 96" width="200" height="96" aria-hidden="true">
    <rect x="0.5" y="0.5" width="199" height="95" rx="3" fill="#fcfaf5" stroke="#d8d0be" />
    {children}
  </svg>
);

const Reading = () => (
  <Frame>
    {[0, 1, 2, 3].map((i) => (
      <g key={i}>
        <rect x="16" y={16 + i * 18} width="46" height="7" fill="#e1eef0" />
        <rect x="72" y={16 + i * 18} width="56" height="7" fill="#f0e8f3" />
        <rect x={150 - (i % 3) * 6} y={16 + i * 18} width={34 + (i % 3) * 6} height="7" fill="#ece6d8" />
      </g>
    ))}
  </Frame>
);

const Saying = () => (
  <Frame>
    <rect x="16" y="30" width="44" height="8" fill="#1e2a2f" />
    <rect x="66" y="30" width="22" height="8" fill="#d8d0be" />
    <rect x="94" y="30" width="52" height="8" fill="#1e2a2f" />
    <rect x="94" y="42" width="52" height="2.5" fill="#6a4479" />
    <rect x="16" y="42" width="44" height="2.5" fill="#1e2a2f" />
    <rect x="16" y="58" width="30" height="8" fill="#d8d0be" />
    <rect x="52" y="58" width="64" height="8" fill="#1e2a2f" />
    <rect x="52" y="70" width="64" height="2.5" fill="#0d5a6a" />
  </Frame>
);

const Adding = () => (
  <Frame>
    {[0, 1, 2].map((i) => (
      <g key={i}>
        <rect x="16" y={18 + i * 16} width={54 - i * 8} height="6" fill="#ece6d8" />
        <rect x={142 - i * 4} y={18 + i * 16} width={42 + i * 4} height="6" fill="#b9cfd2" />
      </g>
    ))}
    <line x1="120" x2="186" y1="66" y2="66" stroke="#1e2a2f" />
    <rect x="16" y="72" width="40" height="7" fill="#1e2a2f" />
    <rect x="130" y="72" width="54" height="7" fill="#0d5a6a" />
    <line x1="120" x2="186" y1="84" y2="84" stroke="#1e2a2f" />
    <line x1="120" x2="186" y1="87" y2="87" stroke="#1e2a2f" />
  </Frame>
);

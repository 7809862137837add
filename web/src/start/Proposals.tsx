import '../brief/brief.css';
import './start.css';

import { useMutation, useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { useNavigate } from 'react-router';

import { get, post, type ProposalView, type SourceLine } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { isTyping } from '../parts/keys';
import { counted, span } from '../parts/words';

/** Reports that fit a source, drawn small from its own records; one click, or its number, makes one. */
export function Proposals({ source }: { source: SourceLine }) {
  const go = useNavigate();
  const found = useQuery({
    queryKey: ['proposals', source.id, source.records],
    queryFn: () => get(`/sources/${source.id}/proposals`),
    retry: false,
  });
  const proposals = found.data ?? [];
  const use = useMutation({
    mutationFn: (proposal: ProposalView) =>
      post('/reports', { source: source.name, document: proposal.document }),
    onSuccess: (view) => go(`/reports/${view.id}`),
  });
  const { mutate } = use;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const proposal = /^[1-3]$/.test(event.key) ? proposals[Number(event.key) - 1] : undefined;
      if (proposal && !isTyping(event) && !event.ctrlKey && !event.metaKey) mutate(proposal);
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  });
  if (proposals.length === 0) return <FaultNote error={found.error} />;
  const covers = span(source.first_day, source.last_day);
  return (
    <>
      <p className="proposed">
        <b>{source.name}</b> holds {counted(source.records, 'record')}
        {covers && `, ${covers}`}.{' '}
        {proposals.length === 1 ? 'A report' : `${words[proposals.length]} reports`} that fit it, drawn from
        its own records:
      </p>
      <FaultNote error={use.error} />
      <div className="proposals">
        {proposals.map((proposal, i) => (
          <article key={proposal.document.title} className="paper proposal">
            <p className="proposal-brief">
              {proposal.sentence.map((piece, k) => (
                <span key={k} className={piece.kind && `phrase ${piece.tone}`}>
                  {piece.text === '.' ? '' : piece.text}
                </span>
              ))}
            </p>
            <Small proposal={proposal} />
            <div className="proposal-foot">
              <button className="link" onClick={() => mutate(proposal)} disabled={use.isPending}>
                Use this report
              </button>
              <kbd className="kbd">{i + 1}</kbd>
            </div>
          </article>
        ))}
      </div>
    </>
  );
}

const words = ['', 'One', 'Two', 'Three'];

/** The first lines of a sheet. */
function Small({ proposal }: { proposal: ProposalView }) {
  const last = proposal.labels.length - 1;
  return (
    <table className="small-sheet">
      <thead>
        <tr>
          <th />
          {proposal.headings.map((heading, i) => (
            <th key={i} className="num">
              {heading}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {proposal.labels.map((label, i) => [
          i === last && proposal.more > 0 && (
            <tr key="more" className="quiet">
              <th scope="row">{proposal.more} more</th>
              {proposal.headings.map((_, k) => (
                <td key={k} />
              ))}
            </tr>
          ),
          <tr key={label} className={i === last ? 'grand' : ''}>
            <th scope="row" title={label}>
              {label}
            </th>
            {proposal.cells[i]?.map((text, k) => (
              <td key={k} className={`num${/^[(−]/.test(text) ? ' neg' : ''}`}>
                {text}
              </td>
            ))}
          </tr>,
        ])}
      </tbody>
    </table>
  );
}

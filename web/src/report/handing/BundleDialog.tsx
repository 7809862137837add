import '../../parts/note.css';
import './handing.css';

import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';

import { sendBundle, type BundleView } from '../../api/client';
import { useSource, useSources } from '../../api/queries';
import { FaultNote } from '../../parts/Fault';
import { Choose } from '../../parts/Field';
import { counted, listed } from '../../parts/words';
import { ColumnPairs, paired } from './ColumnPairs';

const WAYS: [string, string][] = [
  ['keep', 'use the one that is here'],
  ['rename', 'bring it in under another name'],
  ['replace', 'replace the one that is here'],
];

/** What the report depends on and the bundle does not contain, and which of it is missing here. */
function Needs({ needs }: { needs: BundleView['needs'] }) {
  const sources = needs.filter((need) => need.what === 'source');
  const columns = (source: string, lacking = false) =>
    needs
      .filter((need) => need.what === 'column' && need.of === source && !(lacking && need.here))
      .map((need) => need.name);
  const lacks = [
    ...sources.filter((need) => !need.here).map((need) => `There is no source ${need.name} here yet.`),
    ...sources
      .filter((need) => need.here && columns(need.name, true).length > 0)
      .map((need) => `${need.name} has no ${listed(columns(need.name, true))}.`),
    ...needs
      .filter((need) => need.what === 'grouping' && !need.here)
      .map((need) => `There is no grouping ${need.name} here or in the bundle.`),
  ];
  return (
    <div className="say">
      It does not hold the records:{' '}
      {listed(sources.map((need) => `${need.name} (${columns(need.name).join(', ') || 'no columns'})`))}.
      {lacks.map((said) => (
        <p key={said} className="heed">
          {said}
        </p>
      ))}
    </div>
  );
}

/**
 * Imports a report with its groupings from a bundle; name clashes are shown and resolved before anything is stored.
 */
export function BundleDialog({ close }: { close: () => void }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  const [ways, setWays] = useState<Record<string, string>>({});
  const [source, setSource] = useState('');
  const [pairs, setPairs] = useState<Record<string, string>>({});
  const sources = useSources().data ?? [];
  const look = useMutation({
    mutationFn: ({ chosen, over }: { chosen: File; over: string }) =>
      sendBundle<BundleView>(chosen, '/bundles/look', { source: over, ways: {} }),
  });
  const bring = useMutation({
    mutationFn: (columns: Record<string, string>) =>
      sendBundle<{ id: number }>(file as File, '/bundles', { source, ways, columns }),
    onSuccess: ({ id }) => {
      void queries.invalidateQueries();
      go(`/reports/${id}`);
    },
  });
  const found = look.data;
  const over = sources.find((one) => one.name === (source || found?.source));
  const theirs = useSource(over?.id).data?.columns ?? [];
  const columns = paired(found?.columns ?? [], pairs);
  const lacks = found?.needs.some((need) => need.what === 'column' && !need.here);
  const choose = (chosen: File | undefined) => {
    if (!chosen) return;
    setFile(chosen);
    setSource('');
    setPairs({});
    look.mutate({ chosen, over: '' });
  };
  const options = sources.map((s): [string, string] => [s.name, s.name]);
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm">
      <DialogTitle>Import a definition</DialogTitle>
      <DialogContent className="pack">
        <p className="say">
          A bundle is one file with a report and the groupings that it needs, exported from another workspace.
          Nothing is kept until you import it.
        </p>
        <input
          ref={input}
          type="file"
          accept=".json,application/json"
          hidden
          aria-label="Bundle"
          onChange={(event) => choose(event.target.files?.[0])}
        />
        <Button variant="outlined" onClick={() => input.current?.click()}>
          {file ? file.name : 'Choose a bundle…'}
        </Button>
        <FaultNote error={look.error ?? bring.error} />
        {found && (
          <p>
            The report <b>{found.title}</b> over <b>{found.source}</b>
            {found.groupings.length > 0 && `, with ${listed(found.groupings)}`}.
          </p>
        )}
        {found && (!found.here || lacks || source) && (
          <Choose
            label={found.here ? 'Source' : `There is no source ${found.source} here; use`}
            value={source}
            options={[['', found.here ? found.source : `${found.source}, to be imported later`], ...options]}
            change={(over) => {
              setSource(over);
              setPairs({});
              if (file) look.mutate({ chosen: file, over });
            }}
          />
        )}
        {found && found.columns.length > 0 ? (
          <ColumnPairs columns={found.columns} theirs={theirs} pairs={pairs} pair={setPairs} />
        ) : (
          found && <Needs needs={found.needs} />
        )}
        {found?.clashes.map((clash) => (
          <Choose
            key={clash.name}
            label={`${clash.name} is here too, and differs (used by ${counted(clash.used, 'report')})`}
            value={ways[clash.name] ?? 'keep'}
            options={WAYS}
            change={(way) => setWays({ ...ways, [clash.name]: way })}
          />
        ))}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!found || !columns || bring.isPending}
          onClick={() => bring.mutate(columns ?? {})}
        >
          Import
        </Button>
      </DialogActions>
    </Dialog>
  );
}

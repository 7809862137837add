import './sources.css';

import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { get, post } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { JobProgress, share } from '../parts/JobProgress';
import { useWatched } from '../parts/useWatched';
import { counted } from '../parts/words';
import { bytes } from './bytes';

/** A folder on the server linked as a source: its files are read where they lie, and none is copied. */
export function LinkDialog({
  folders,
  linked,
  close,
}: {
  folders: string[];
  linked: (source: number) => void;
  close: () => void;
}) {
  const queries = useQueryClient();
  const [name, setName] = useState('');
  const [folder, setFolder] = useState(folders[0] ?? '');
  const [pattern, setPattern] = useState('**/*');
  const [job, setJob] = useState<string | null>(null);
  const here = useQuery({
    queryKey: ['folder', folder],
    queryFn: () => get(`/folders/at?path=${encodeURIComponent(folder)}`),
    retry: false,
  });
  const watch = useWatched(job, (done) => {
    setJob(null);
    void queries.invalidateQueries();
    if (done.state === 'done' && done.source !== null) linked(done.source);
  });
  const begin = useMutation({
    mutationFn: () => post('/linked', { name: name.trim(), folder, pattern }),
    onSuccess: (begun) => setJob(begun.id),
  });
  const up = folders.includes(folder) ? null : folder.slice(0, folder.lastIndexOf('/'));
  const busy = job !== null || begin.isPending;
  return (
    <Dialog open onClose={busy ? undefined : close} maxWidth="sm" fullWidth>
      <DialogTitle>Link a folder</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2, pt: '8px !important' }}>
        <p className="say">
          Its files stay where they are and are read there, however many: files that come later belong to the
          source as well. The server may read the folders named here.
        </p>
        <TextField
          label="Name of the source"
          value={name}
          autoFocus
          disabled={busy}
          onChange={(event) => setName(event.target.value)}
        />
        <div className="folder-at" role="group" aria-label="Folder">
          <b>{folder}</b>
          <span className="quiet">
            {here.data &&
              `${counted(here.data.files, 'file')} in it and in folders within, ${bytes(here.data.size)}`}
          </span>
          <div className="folder-in">
            {up !== null && (
              <button className="link" disabled={busy} onClick={() => setFolder(up)}>
                ↑ up
              </button>
            )}
            {up === null &&
              folders
                .filter((one) => one !== folder)
                .map((one) => (
                  <button key={one} className="link" disabled={busy} onClick={() => setFolder(one)}>
                    {one}
                  </button>
                ))}
            {here.data?.folders.map((one) => (
              <button
                key={one}
                className="link"
                disabled={busy}
                onClick={() => setFolder(`${folder}/${one}`)}
              >
                {one}/
              </button>
            ))}
          </div>
        </div>
        <TextField
          label="Which files"
          value={pattern}
          disabled={busy}
          helperText="**/* is all files in it and in folders within; tickets-*.csv those of that name in it alone"
          onChange={(event) => setPattern(event.target.value)}
        />
        <FaultNote error={here.error ?? begin.error ?? watch.fault} />
        {watch.job && <JobProgress job={watch.job} stop={watch.stop} said={share} />}
      </DialogContent>
      <DialogActions>
        <Button onClick={close} disabled={busy}>
          Cancel
        </Button>
        <Button
          variant="contained"
          disabled={busy || !name.trim() || !pattern.trim() || !here.data?.files}
          onClick={() => begin.mutate()}
        >
          Link
        </Button>
      </DialogActions>
    </Dialog>
  );
}

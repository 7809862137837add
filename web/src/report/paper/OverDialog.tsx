import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { get, type OtherSource } from '../../api/client';
import { useSource, useSources } from '../../api/queries';
import { FaultNote } from '../../parts/Fault';
import { Choose } from '../../parts/Field';
import { counted } from '../../parts/words';
import { ColumnPairs, paired } from '../handing/ColumnPairs';

/** Puts a report over another source: its columns side by side with their counterparts there. */
export function OverDialog(props: {
  id: number;
  source: string;
  put: (over: OtherSource) => void;
  close: () => void;
}) {
  const { id, source: now, put, close } = props;
  const others = (useSources().data ?? []).filter((one) => one.name !== now);
  const [chosen, setChosen] = useState('');
  const [pairs, setPairs] = useState<Record<string, string>>({});
  const source = chosen || (others[0]?.name ?? '');
  const theirs = useSource(others.find((one) => one.name === source)?.id).data?.columns ?? [];
  const needed = useQuery({
    queryKey: ['over', id, source],
    queryFn: () => get(`/reports/${id}/over?source=${encodeURIComponent(source)}`),
    enabled: source !== '',
    retry: false,
  });
  const whole = paired(needed.data ?? [], pairs);
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm">
      <DialogTitle>Use another source</DialogTitle>
      <DialogContent sx={{ pt: '8px !important' }}>
        <p className="say">
          Everything that the report says stays; its columns are those of the other source. <i>Undo</i> takes
          it back.
        </p>
        {others.length === 0 ? (
          <p className="say">There is no other source yet; import a file first.</p>
        ) : (
          <Choose
            label="Source"
            value={source}
            options={others.map((one) => [one.name, `${one.name} · ${counted(one.records, 'record')}`])}
            change={(name) => {
              setChosen(name);
              setPairs({});
            }}
          />
        )}
        <FaultNote error={needed.error} />
        <ColumnPairs columns={needed.data ?? []} theirs={theirs} pairs={pairs} pair={setPairs} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!needed.data || !whole}
          onClick={() => {
            if (whole) put({ source, columns: whole });
            close();
          }}
        >
          Use {source}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

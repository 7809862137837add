import '../../editors/editors.css';
import '../../parts/chip.css';

import { Button, Popover } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { put, type ReportLine } from '../../api/client';
import { FaultNote } from '../../parts/Fault';
import { Written } from '../../parts/Field';

/** Sets one's own marks on a report, existing and new ones. */
export function MarkReport({ report, known }: { report: ReportLine; known: string[] }) {
  const queries = useQueryClient();
  const [at, setAt] = useState<HTMLElement | null>(null);
  const work = useMutation({
    mutationFn: (names: string[]) => put(`/reports/${report.id}/marks`, { names }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['reports'] }),
  });
  const has = (mark: string) => report.marks.includes(mark);
  const turn = (mark: string) =>
    work.mutate(has(mark) ? report.marks.filter((one) => one !== mark) : [...report.marks, mark]);
  return (
    <>
      <Button aria-haspopup="dialog" onClick={(event) => setAt(event.currentTarget)}>
        Mark
      </Button>
      <Popover
        open={at !== null}
        anchorEl={at}
        onClose={() => setAt(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
      >
        <div className="editor" role="dialog" aria-label={`Marks of ${report.title}`}>
          {known.length > 0 && (
            <div className="grains" role="group" aria-label="Marks">
              {known.map((mark) => (
                <button
                  key={mark}
                  className={`chip${has(mark) ? ' on' : ''}`}
                  aria-pressed={has(mark)}
                  onClick={() => turn(mark)}
                >
                  {mark}
                </button>
              ))}
            </div>
          )}
          <Written
            key={report.marks.join()}
            label="New mark"
            value=""
            change={(mark) => !has(mark) && turn(mark)}
            help="a word of your own, such as month-end; only you see it"
          />
          <FaultNote error={work.error} />
        </div>
      </Popover>
    </>
  );
}

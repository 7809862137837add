import '../intake/intake.css';
import '../intake/strip.css';
import './sources.css';

import { useMutation, useQueryClient } from '@tanstack/react-query';

import { remove, type SourceView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { counted, day } from '../parts/words';
import { MonthTable } from '../intake/MonthTable';

const FEW = 4;

type Folder = NonNullable<SourceView['drop_folder']>;

/** Why a file was not brought in, without its name before it. */
const told = ({ file, reason }: Folder['held'][number]) =>
  reason.startsWith(`${file}: `) ? reason.slice(file.length + 2) : reason;

/** Where files can be put that are brought in by themselves, how many wait there, and those that a person is to deal with. */
export function DropFolder({
  id,
  folder,
  look,
}: {
  id: number;
  folder: Folder;
  look: (file: string, ifSure?: boolean) => void;
}) {
  const queries = useQueryClient();
  const aside = useMutation({
    mutationFn: (file: string) => remove(`/sources/${id}/dropped/${encodeURIComponent(file)}`),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <div className="say drop-path" title={folder.path}>
      Files put in the workspace’s folder <span>drop/{folder.path.split('/').pop()}</span> are imported by
      themselves.
      {folder.waiting > 0 && <> {counted(folder.waiting, 'file')} waiting there.</>}
      <ul className="refused">
        {[...folder.held, ...folder.troubles].map((trouble) => (
          <li key={`${trouble.file} ${trouble.at}`}>
            {trouble.file}, {day(trouble.at.slice(0, 10))}: {told(trouble)}{' '}
            {trouble.months.length > 0 && (
              <details className="strip small" open={trouble.months.length <= FEW}>
                <summary>What it would do</summary>
                <MonthTable months={trouble.months} small />
              </details>
            )}
            <span className="deal">
              {trouble.sure && (
                <button className="link" onClick={() => look(trouble.file, true)}>
                  import it so
                </button>
              )}
              <button className="link" onClick={() => look(trouble.file)}>
                look at it
              </button>
              <button className="link" onClick={() => aside.mutate(trouble.file)} disabled={aside.isPending}>
                put it aside
              </button>
            </span>
          </li>
        ))}
      </ul>
      <FaultNote error={aside.error} />
    </div>
  );
}

import { Popover } from '@mui/material';
import { memo } from 'react';

import type { ColumnView, Report, SheetView } from '../api/client';
import { heeded, shifted, silenced, turned, without } from '../definition/change';
import type { Phrase } from '../definition/sentence';
import { PhraseEditor } from '../editors/PhraseEditor';

export interface Editing {
  phrase: Phrase;
  anchor: HTMLElement;
}

/** Whether the editor of a phrase asks what the sheet has; others need not be drawn again when it changes. */
export const asksSheet = ({ kind }: Phrase) => kind !== 'figure' && kind !== 'only' && kind !== 'window';

/** The editor of a phrase at its place in the sentence; drawn again only when something that it asks changes. */
export const EditedPhrase = memo(function EditedPhrase({
  editing,
  report,
  columns,
  source,
  sheet,
  change,
  close,
  after,
}: {
  editing: Editing | null;
  report: Report;
  columns: ColumnView[];
  source: number | undefined;
  sheet: SheetView | undefined;
  change: (report: Report) => void;
  close: () => void;
  /** Close the editor and make a change, where it is one. */
  after: (next: Report | null) => void;
}) {
  const phrase = editing?.phrase;
  return (
    <Popover
      open={editing !== null}
      anchorEl={editing?.anchor}
      onClose={close}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
    >
      {phrase && (
        <PhraseEditor
          key={`${phrase.kind}${phrase.index}`}
          report={report}
          phrase={phrase}
          columns={columns}
          source={source}
          sheet={sheet}
          change={change}
          close={close}
          remove={() => after(without(report, phrase))}
          move={(by) => after(shifted(report, phrase, by))}
          silence={() =>
            after(phrase.kind === 'silenced' ? heeded(report, phrase.index) : silenced(report, phrase))
          }
          turn={() =>
            (phrase.kind === 'down' || phrase.kind === 'across') &&
            after(turned(report, phrase.kind, phrase.index))
          }
        />
      )}
    </Popover>
  );
});

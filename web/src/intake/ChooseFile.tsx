import { useRef } from 'react';
import { useNavigate } from 'react-router';

import { MainButton } from '../parts/Masthead';
import { arrive } from './arrived';

/** The button that opens the file chooser. */
export function ChooseFile({
  take,
  busy,
  label = 'Import a file',
}: {
  take: (file: File) => void;
  busy: boolean;
  label?: string;
}) {
  const input = useRef<HTMLInputElement>(null);
  const go = useNavigate();
  return (
    <>
      <input
        ref={input}
        type="file"
        hidden
        multiple
        aria-label="File"
        onChange={(event) => {
          const [file, ...others] = event.target.files ?? [];
          event.target.value = '';
          if (!file) return;
          if (others.length === 0) return take(file);
          arrive([file, ...others]);
          void go('/sources');
        }}
      />
      <MainButton disabled={busy} onClick={() => input.current?.click()}>
        {busy ? 'Reading…' : label}
      </MainButton>
    </>
  );
}

/** Handlers that let a file be dropped on an element. */
export function dropping(take: (file: File) => void, over: (over: boolean) => void) {
  return {
    onDragOver: (event: React.DragEvent) => {
      event.preventDefault();
      over(true);
    },
    onDragLeave: () => over(false),
    onDrop: (event: React.DragEvent) => {
      over(false);
      const [file, ...others] = event.dataTransfer.files;
      if (!file || others.length > 0) return; // several go where each is matched to its source
      event.preventDefault();
      take(file);
    },
  };
}

import { useRef } from 'react';

import { MainButton } from '../app/Masthead';

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
  return (
    <>
      <input
        ref={input}
        type="file"
        hidden
        aria-label="File"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file) take(file);
        }}
      />
      <MainButton disabled={busy} onClick={() => input.current?.click()}>
        {busy ? 'Reading…' : label}
      </MainButton>
    </>
  );
}

/** Handlers that let files be dropped on an element. */
export function dropping(take: (file: File) => void, over: (over: boolean) => void) {
  return {
    onDragOver: (event: React.DragEvent) => {
      event.preventDefault();
      over(true);
    },
    onDragLeave: () => over(false),
    onDrop: (event: React.DragEvent) => {
      event.preventDefault();
      over(false);
      const file = event.dataTransfer.files[0];
      if (file) take(file);
    },
  };
}

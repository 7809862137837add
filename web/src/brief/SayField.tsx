import './say.css';

import { useLayoutEffect, useRef, type KeyboardEvent } from 'react';

import { toned, type Heard } from './toned';

interface Props {
  text: string;
  heard: Heard[];
  placeholder: string;
  /** Where the caret goes when the field is opened, or a word is to be looked at. */
  select: [number, number] | null;
  change: (text: string) => void;
  keys: (event: KeyboardEvent) => void;
  caret: (at: number) => void;
  active: string | undefined;
}

/** A field to type a sentence into; its words have the colour of what they became. */
export function SayField({ text, heard, placeholder, select, change, keys, caret, active }: Props) {
  const field = useRef<HTMLTextAreaElement>(null);
  const [from, to] = select ?? [-1, -1];
  useLayoutEffect(() => {
    field.current?.focus();
    if (from >= 0) field.current?.setSelectionRange(from, to);
  }, [from, to]);
  return (
    <div className="say-field">
      <div className="say-words" aria-hidden="true">
        {toned(text, heard).map(([words, tone], i) => (
          <span key={i} className={tone && `toned ${tone}`}>
            {words}
          </span>
        ))}{' '}
      </div>
      <textarea
        ref={field}
        rows={1}
        value={text}
        placeholder={placeholder}
        spellCheck={false}
        aria-label="Say what you want"
        aria-controls={active === undefined ? undefined : 'offers'}
        aria-activedescendant={active}
        onChange={(event) => change(event.target.value.replaceAll('\n', ' '))}
        onKeyDown={keys}
        onSelect={(event) => caret(event.currentTarget.selectionStart)}
      />
    </div>
  );
}

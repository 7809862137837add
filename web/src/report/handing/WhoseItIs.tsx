import './handing.css';

import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRef } from 'react';

import { put, remove, sendMark, type WorkspacePut } from '../../api/client';
import { useWorkspace } from '../../api/queries';
import { FaultNote } from '../../parts/Fault';
import { Written } from '../../parts/Field';

const OWN = '#0d5a6a';

/** The organisation's name, mark and colour on the cover of packs, stored for the workspace. */
export function WhoseItIs() {
  const queries = useQueryClient();
  const found = useWorkspace();
  const chosen = useRef<HTMLInputElement>(null);
  const refresh = () => queries.invalidateQueries({ queryKey: ['workspace'] });
  const keeping = useMutation({
    mutationFn: (said: WorkspacePut) => put('/workspace', said),
    onSettled: refresh,
  });
  const marking = useMutation({
    mutationFn: async (file: File | null) => {
      await (file ? sendMark(file) : remove('/workspace/mark'));
    },
    onSettled: refresh,
  });
  if (!found.data) return null;
  const { organisation, accent, marked } = found.data;
  return (
    <fieldset className="cover-fields">
      <legend>On the cover</legend>
      <Written label="Organisation" value={organisation} clear change={(name) => keeping.mutate({ name })} />
      <div className="cover-looks">
        <span className="cover-colour" style={{ background: accent || OWN }} aria-hidden="true" />
        <Written
          label="Accent colour"
          value={accent}
          clear
          help="as #0d5a6a; empty for the usual one"
          change={(text) => keeping.mutate({ accent: text })}
        />
        <span className="cover-mark">
          Mark
          {marked && <img src={`/api/workspace/mark?at=${found.dataUpdatedAt}`} alt="The mark" height="28" />}
          <button className="link" onClick={() => chosen.current?.click()}>
            {marked ? 'another' : 'choose an SVG or PNG'}
          </button>
          {marked && (
            <button className="link" onClick={() => marking.mutate(null)}>
              none
            </button>
          )}
        </span>
        <input
          ref={chosen}
          type="file"
          hidden
          accept=".svg,.png,image/svg+xml,image/png"
          aria-label="Mark"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) marking.mutate(file);
            event.target.value = '';
          }}
        />
      </div>
      <FaultNote error={keeping.error ?? marking.error} />
    </fieldset>
  );
}

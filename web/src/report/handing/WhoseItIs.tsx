import { useMutation, useQueryClient } from '@tanstack/react-query';

import { put } from '../../api/client';
import { useWorkspace } from '../../api/queries';
import { FaultNote } from '../../parts/Fault';
import { Written } from '../../parts/Field';

/** The organisation's name on the cover, kept for the workspace. */
export function WhoseItIs() {
  const queries = useQueryClient();
  const found = useWorkspace();
  const keeping = useMutation({
    mutationFn: (name: string) => put('/workspace', { name }),
    onSettled: () => queries.invalidateQueries({ queryKey: ['workspace'] }),
  });
  if (!found.data) return null;
  return (
    <>
      <Written
        label="Organisation, on the cover"
        value={found.data.organisation}
        clear
        change={(name) => keeping.mutate(name)}
      />
      <FaultNote error={keeping.error} />
    </>
  );
}

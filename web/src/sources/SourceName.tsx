import { useQueryClient } from '@tanstack/react-query';
import { useNavigate } from 'react-router';

import { patch, remove, type SourceView } from '../api/client';
import { NamedTitle, RemoveButton } from '../parts/Naming';
import { counted } from '../parts/words';

/** A source's name, which can be changed unless something knows the source by it. */
export function SourceName({ source }: { source: SourceView }) {
  const queries = useQueryClient();
  const rename = async (name: string) => {
    queries.setQueryData(['source', source.id], await patch(`/sources/${source.id}`, { name }));
    void queries.invalidateQueries({ queryKey: ['sources'] });
  };
  return <NamedTitle name={source.name} rename={rename} />;
}

/** Taking a source away with all its records. */
export function RemoveSource({ source }: { source: SourceView }) {
  const queries = useQueryClient();
  const go = useNavigate();
  const away = async () => {
    await remove(`/sources/${source.id}`);
    void queries.invalidateQueries({ queryKey: ['sources'] });
    void go('/sources');
  };
  const held = `${counted(source.records, 'record')} and ${counted(source.files, 'file')}`;
  return (
    <RemoveButton
      name={source.name}
      detail={`Its ${held} go with it. This cannot be undone.`}
      remove={away}
    />
  );
}

import { useQueryClient } from '@tanstack/react-query';
import { useNavigate } from 'react-router';

import { put, remove, type Grouping, type GroupingView } from '../api/client';
import { NamedTitle, RemoveButton } from '../parts/Naming';

/** A grouping's name, which can be changed at once unless a report uses the grouping. */
export function GroupingName({ view }: { view: GroupingView }) {
  const queries = useQueryClient();
  const rename = async (name: string) => {
    const document = { ...view.document, name } as Grouping;
    const { revision } = view;
    queries.setQueryData(['grouping', view.id], await put(`/groupings/${view.id}`, document, { revision }));
    void queries.invalidateQueries({ queryKey: ['groupings'] });
  };
  return <NamedTitle name={view.document.name} rename={rename} />;
}

/** Deletes a grouping. */
export function RemoveGrouping({ view }: { view: GroupingView }) {
  const queries = useQueryClient();
  const go = useNavigate();
  const away = async () => {
    await remove(`/groupings/${view.id}`);
    void queries.invalidateQueries({ queryKey: ['groupings'] });
    void go('/groupings');
  };
  return (
    <RemoveButton
      name={view.document.name}
      detail="No report may use it. The data stays as it is."
      remove={away}
    />
  );
}

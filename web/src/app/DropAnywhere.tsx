import { useEffect } from 'react';
import { useNavigate } from 'react-router';

import { arrive } from '../intake/arrived';

const hasFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;

/** Files dropped on a screen without a drop target go to the list of sources, where each is matched to its source. */
export function DropAnywhere() {
  const go = useNavigate();
  useEffect(() => {
    const over = (event: DragEvent) => {
      if (hasFiles(event)) event.preventDefault();
    };
    const drop = (event: DragEvent) => {
      if (event.defaultPrevented || !hasFiles(event)) return;
      event.preventDefault();
      arrive([...(event.dataTransfer?.files ?? [])], window.location.pathname);
      void go('/sources');
    };
    window.addEventListener('dragover', over);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', over);
      window.removeEventListener('drop', drop);
    };
  }, [go]);
  return null;
}

import type { ColumnView } from '../../api/client';
import type { Kind } from '../brief/conditions';

/** What a column is to conditions. */
export const kindOf = (columns: ColumnView[], name: string): Kind => {
  const found = columns.find((column) => column.name === name);
  if (found?.kind === 'yes_no') return 'yes_no';
  if (found?.kind === 'date' || found?.kind === 'datetime') return 'date';
  return found?.role === 'number' || ['whole', 'decimal', 'approximate'].includes(found?.kind ?? '')
    ? 'number'
    : 'text';
};

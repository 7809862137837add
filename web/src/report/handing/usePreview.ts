import { useQuery } from '@tanstack/react-query';

import { get } from '../../api/client';

/** The preview of a report's file, by the query of its format and shape. */
export const usePreview = (id: number, revision: number, query: string) =>
  useQuery({
    queryKey: ['preview', id, revision, query],
    queryFn: () => get(`/reports/${id}/preview?${query}`),
    placeholderData: (before) => before,
    retry: false,
  });

import { useEffect, useState } from 'react';

/**
 * How many of a long list are rendered: a first batch, and another whenever its end, which has the ref `end`, comes
 * near.
 */
export function useMore(most: number) {
  const [shown, setShown] = useState(most);
  const [element, end] = useState<HTMLElement | null>(null);
  useEffect(() => {
    if (!element) return;
    const near = new IntersectionObserver(
      ([entry]) => entry?.isIntersecting && setShown((before) => before + most),
      { rootMargin: '600px' },
    );
    near.observe(element);
    return () => near.disconnect();
  }, [element, most, shown]);
  return { shown, end };
}

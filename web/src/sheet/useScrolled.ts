import { useLayoutEffect, useRef, useState, type RefObject } from 'react';

import { ROW, snapped, type Tracks } from './tracks';

/** Scrolling is reported in steps of a number of rows: a step costs a render, the frames between do not. */
export const STEP = 12;

export interface Scrolled {
  top: number;
  left: number;
  width: number;
  height: number;
}

/** The scroll position, updated once a frame; horizontally it settles at the edge of a column. */
export function useScrolled(scroller: RefObject<HTMLElement | null>): Scrolled {
  const [at, setAt] = useState<Scrolled>({ top: 0, left: 0, width: 1000, height: 600 });
  useLayoutEffect(() => {
    const element = scroller.current;
    if (!element) return;
    let frame = 0;
    const read = () => {
      frame = 0;
      setAt((before) => {
        const next = {
          top: Math.floor(element.scrollTop / (ROW * STEP)) * ROW * STEP,
          left: element.scrollLeft,
          width: element.clientWidth,
          height: element.clientHeight,
        };
        const same = (Object.keys(next) as (keyof Scrolled)[]).every((k) => next[k] === before[k]);
        return same ? before : next;
      });
    };
    const listen = () => {
      if (!frame) frame = requestAnimationFrame(read);
    };
    read();
    element.addEventListener('scroll', listen, { passive: true });
    const sizes = new ResizeObserver(listen);
    sizes.observe(element);
    return () => {
      element.removeEventListener('scroll', listen);
      sizes.disconnect();
      cancelAnimationFrame(frame);
    };
  }, [scroller]);
  return at;
}

/** Scrolls to the nearest edge of a column when scrolling ends. */
export function useSnapped(scroller: RefObject<HTMLElement | null>, all: Tracks) {
  const tracks = useRef(all);
  useLayoutEffect(() => {
    tracks.current = all;
  }, [all]);
  useLayoutEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const rest = () => {
      const most = element.scrollWidth - element.clientWidth;
      const to = snapped(tracks.current, element.scrollLeft);
      if (Math.abs(to - element.scrollLeft) > 1 && element.scrollLeft < most - 1) element.scrollLeft = to;
    };
    element.addEventListener('scrollend', rest);
    return () => element.removeEventListener('scrollend', rest);
  }, [scroller]);
}

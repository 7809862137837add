import './groupings.css';

import { useRef, useState } from 'react';

import type { BucketLook } from '../api/client';
import { count } from '../parts/words';

/** The histogram of the data with its cuts, which can be dragged, or moved by the arrow keys. */
export function Histogram({ look, move }: { look: BucketLook; move: (at: number, to: number) => void }) {
  const box = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<{ at: number; to: number } | null>(null);
  const low = Math.min(look.low, look.cuts[0] ?? look.low);
  const high = Math.max(look.high, look.cuts[look.cuts.length - 1] ?? look.high);
  const width = high - low || 1;
  const tallest = Math.max(1, ...look.bins);
  const place = (value: number) => `${(100 * (value - low)) / width}%`;
  const whole = width > 20;
  const valueAt = (clientX: number) => {
    const rect = box.current?.getBoundingClientRect();
    const share = rect ? (clientX - rect.left) / rect.width : 0;
    const value = low + Math.max(0, Math.min(1, share)) * width;
    return whole ? Math.round(value) : Number(value.toPrecision(3));
  };
  const between = (at: number, to: number) => {
    const step = whole ? 1 : width / 1000;
    const least = look.cuts[at - 1];
    const most = look.cuts[at + 1];
    return Math.min(most === undefined ? to : Math.min(to, most - step), Infinity) <
      (least ?? -Infinity) + step
      ? (least ?? 0) + step
      : most === undefined
        ? to
        : Math.min(to, most - step);
  };
  return (
    <div className="hist" ref={box}>
      <div
        className="bars"
        aria-hidden="true"
        style={{ left: place(look.low), right: `calc(100% - ${place(look.high)})` }}
      >
        {look.bins.map((n, i) => (
          <i key={i} style={{ height: `${(100 * n) / tallest}%` }} />
        ))}
      </div>
      {look.cuts.map((cut, i) => {
        const shown = drag?.at === i ? drag.to : cut;
        return (
          <button
            key={i}
            className="cut"
            role="slider"
            aria-label={`Cut ${i + 1}`}
            aria-valuenow={shown}
            style={{ left: place(shown) }}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              setDrag({ at: i, to: cut });
            }}
            onPointerMove={(event) =>
              drag?.at === i && setDrag({ at: i, to: between(i, valueAt(event.clientX)) })
            }
            onPointerUp={() => {
              if (drag && drag.to !== cut) move(i, drag.to);
              setDrag(null);
            }}
            onKeyDown={(event) => {
              const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
              if (by) move(i, between(i, cut + by * (whole ? 1 : width / 100)));
            }}
          >
            <span>{count(shown)}</span>
          </button>
        );
      })}
    </div>
  );
}

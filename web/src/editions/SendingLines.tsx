import './editions.css';
import '../parts/state.css';

import type { SendingView } from '../api/client';

/** Where editions went or are on their way to, and what became of it; `named`: with what
 *  was sent; `again` tries one that failed once more. */
export function SendingLines(props: { lines: SendingView[]; named?: boolean; again?: (id: number) => void }) {
  const { lines, named, again } = props;
  return (
    <table className="sending-lines">
      <tbody>
        {lines.map((one) => (
          <tr key={one.id}>
            {named && <td>{one.what}</td>}
            <td>
              {one.address}
              {one.member && ` · ${one.member}`}
            </td>
            <td className={one.state === 'failed' ? 'neg' : 'quiet'}>
              {one.state}
              {one.told && `: ${one.told}`}
              {one.state === 'waiting' && one.told && ', tried again later'}
            </td>
            <td>
              {again && one.state === 'failed' && (
                <button className="link" onClick={() => again(one.id)}>
                  Try again
                </button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

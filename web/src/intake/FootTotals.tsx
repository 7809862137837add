import '../parts/note.css';

import { Checkbox, FormControlLabel } from '@mui/material';

import type { WaitingView } from '../api/client';
import { counted, money } from '../parts/words';
import type { BringingIn } from './useBringingIn';

/** Lines at the foot that look like totals: left out on request, and checked against the sums above them. */
export function FootTotals({ way, waiting }: { way: BringingIn; waiting: WaitingView }) {
  if (waiting.foot.length === 0) return null;
  return (
    <div className="note">
      <div>
        The file ends with {counted(waiting.foot.length, 'line')} that{' '}
        {waiting.foot.length === 1 ? 'looks' : 'look'} like a total:
      </div>
      {waiting.foot.map((foot) => (
        <div key={foot.line}>
          line {foot.line}: {foot.text}
          {foot.amounts.map((amount) => (
            <div key={amount.column} className={amount.agrees ? 'good' : 'heed'}>
              {amount.agrees
                ? `✓ ${amount.column} sums to the file's own total, ${money(amount.amount)}`
                : `${amount.column} sums to ${money(amount.above)}, and the file says ${money(amount.amount)}`}
            </div>
          ))}
        </div>
      ))}
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={waiting.foot_lines === waiting.foot.length}
            onChange={(e) => way.readAgain({ foot_lines: e.target.checked ? waiting.foot.length : 0 })}
          />
        }
        label={waiting.foot.length === 1 ? 'Leave it out' : 'Leave them out'}
      />
    </div>
  );
}

import { Dialog, DialogContent, DialogTitle } from '@mui/material';
import { useEffect, useState } from 'react';

import { isTyping } from '../parts/keys';

const KEYS: [string[], string][] = [
  [['/'], 'add a phrase to the report'],
  [['Enter'], 'open the phrase, group or report that has the focus'],
  [['Ctrl', 'Z'], 'undo the last change to the report'],
  [['Ctrl', 'Shift', 'Z'], 'redo it'],
  [['0', '–', '9'], 'open the sheet to that level; 0 shows the total alone'],
  [['G'], 'on a tree: gather the chosen values into a new category'],
  [['M'], 'on a tree: move them to a category'],
  [['R'], 'on a tree: write a rule that catches them'],
  [['Alt', '↑', '↓'], 'on a tree: move the chosen line up or down'],
  [['Esc'], 'close what is open'],
  [['?'], 'this list'],
];

/** All keys in one list, on `?`. */
export function Keys() {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.key === '?' && !isTyping(event)) setOpen(true);
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);
  return (
    <Dialog open={open} onClose={() => setOpen(false)}>
      <DialogTitle sx={{ fontFamily: 'var(--serif)', fontWeight: 600 }}>Keys</DialogTitle>
      <DialogContent>
        <table>
          <tbody>
            {KEYS.map(([keys, does]) => (
              <tr key={does}>
                <td style={{ padding: '4px 18px 4px 0' }}>
                  {keys.map((key) => (
                    <kbd key={key} className="kbd" style={{ marginRight: 4 }}>
                      {key}
                    </kbd>
                  ))}
                </td>
                <td>{does}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </DialogContent>
    </Dialog>
  );
}

/** The key sheet: every key of the program, on `?`. */
import { Dialog } from '../ui/dialog.tsx';
import { useKeySheet } from './key-sheet-open.ts';

const KEYS: readonly (readonly [string, readonly (readonly [string, string])[]])[] = [
  [
    'Stations',
    [
      ['1 … 5', 'Draw, Trace, Build, Lay up, Send'],
      ['/', 'Search everything'],
      ['?', 'This sheet'],
    ],
  ],
  [
    'Tools',
    [
      ['S', 'Select'],
      ['L', 'Lettering'],
      ['B', 'Box'],
      ['O', 'Oval'],
      ['P  R', 'Polygon, star'],
      ['I  A  H', 'Line, arc, freehand'],
      ['C', 'Curve; Enter ends it open'],
      ['N', 'Nodes; Delete takes chosen ones away'],
      ['M', 'Measure'],
      ['K', 'Known length of a picture'],
      ['V', 'Blade view'],
      ['Esc', 'Back to Select, nothing selected'],
    ],
  ],
  [
    'On the material (Lay up)',
    [
      ['Tab', 'Next piece, when the material has the focus'],
      ['Arrows', 'Move chosen pieces by the step; Shift ×10, Alt ÷10'],
      ['Page Dn  Up', 'To the next sheet, to the one before'],
      ['T  Shift T', 'Turn them by a quarter, either way'],
      ['K', 'Lock them in place'],
      ['Delete', 'Put them back where the fill puts them'],
      ['Ctrl A  Esc', 'All pieces, none'],
    ],
  ],
  [
    'Looking',
    [
      ['Wheel', 'Zoom at the pointer'],
      ['Space + drag', 'Pan'],
      ['F  Shift F', 'Fit everything, or the selection'],
      ['0', 'True size'],
    ],
  ],
  [
    'Selection',
    [
      ['Arrows', 'Move by the step; Shift ×10, Alt ÷10'],
      ['Tab', 'Next item'],
      ['Enter', 'Write in the lettering'],
      ['Delete', 'Delete'],
      ['Ctrl A', 'Select all'],
      ['Ctrl G', 'Group'],
      ['Ctrl Shift G', 'Ungroup'],
      [']  [', 'To the front, to the back'],
      ['X', 'Mirror sideways; Shift X upside down'],
    ],
  ],
  [
    'Work',
    [
      ['Ctrl Z', 'Undo'],
      ['Ctrl Y', 'Redo'],
      ['Ctrl C  X  V', 'Copy, cut, paste'],
      ['Ctrl D', 'Duplicate'],
      ['Ctrl S', 'Keep a version; go back to one'],
    ],
  ],
  [
    'While writing',
    [
      ['Alt ← →', 'Kern by 1 % of the capitals; Shift ×10'],
      ['Esc', 'Done'],
    ],
  ],
  [
    'While dragging',
    [
      ['Shift', 'Straight; free ratio; 15° steps; square'],
      ['Alt', 'Size from the middle; a handle on its own'],
      ['Ctrl', 'Without snapping'],
    ],
  ],
];

export function KeySheet() {
  const open = useKeySheet((state) => state.open);
  return (
    <Dialog open={open} title="Keys" width={720} onClose={() => useKeySheet.setState({ open: false })}>
      <div className="grid grid-cols-2 gap-x-8 gap-y-4">
        {KEYS.map(([title, keys]) => (
          <section key={title}>
            <h3 className="rule-label border-b pb-1">{title}</h3>
            <dl>
              {keys.map(([key, does]) => (
                <div key={key} className="flex items-baseline gap-3 py-1">
                  <dt className="numerals w-28 shrink-0 text-[13px] font-medium">{key}</dt>
                  <dd>{does}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Dialog>
  );
}

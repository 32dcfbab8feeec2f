/** A colour to print: picked, by number, or one of some swatches; and an ink of its own name. */
import type { Colour } from '@lorvek/model';
import { TextField } from '../../ui/fields.tsx';

const HEX = /^#?([0-9a-f]{6})$/i;

export function ColourFields({ label, colour, onChange }: { label: string; colour: Colour; onChange(colour: Colour): void }) {
  const swatches = [...new Set(['#17181a', '#ffffff', '#c2271f', '#f2a900', '#0f5e66', '#1f4fa3', colour.hex])];
  return (
    <div className="flex flex-col gap-1.5">
      <div className="flex items-center gap-2">
        <input
          type="color"
          aria-label={`${label}: pick`}
          value={colour.hex}
          onChange={(event) => onChange({ ...colour, hex: event.target.value })}
          className="h-7 w-12 border border-line-strong bg-sheet p-0.5"
        />
        <div className="min-w-0 flex-1">
          <TextField
            key={colour.hex}
            label={`${label}, by number`}
            value={colour.hex}
            onChange={(text) => {
              const hex = HEX.exec(text.trim())?.[1];
              if (hex) onChange({ ...colour, hex: `#${hex.toLowerCase()}` });
            }}
          />
        </div>
      </div>
      <div className="flex gap-1" role="group" aria-label={`${label}: swatches`}>
        {swatches.map((hex) => (
          <button
            key={hex}
            type="button"
            aria-label={`${label} ${hex}`}
            aria-pressed={hex === colour.hex}
            onClick={() => onChange({ ...colour, hex })}
            className="h-5 flex-1 border border-line-strong aria-pressed:outline-2 aria-pressed:outline-teal"
            style={{ background: hex }}
          />
        ))}
      </div>
    </div>
  );
}

/** An ink of its own name that a colour stands for; without one it is laid down in process inks. */
export function NamedInkField({ label, colour, onChange }: { label: string; colour: Colour; onChange(colour: Colour): void }) {
  return (
    <TextField
      key={`spot ${colour.spot ?? ''}`}
      label={`${label} (empty: process inks)`}
      value={colour.spot ?? ''}
      onChange={(name) => {
        const { spot: _spot, ...rest } = colour;
        onChange(name.trim() === '' ? rest : { ...rest, spot: name.trim().slice(0, 80) });
      }}
    />
  );
}

/** A button that asks for files of this computer. The same file can be chosen twice. */
import { useRef } from 'react';
import { Button, type ButtonProps } from './button.tsx';

export interface FileButtonProps extends Omit<ButtonProps, 'onClick' | 'type'> {
  /** Of the field behind it. */
  readonly label: string;
  readonly accept: string;
  readonly multiple?: boolean;
  /** At least one. */
  onFiles(files: readonly [File, ...File[]]): void;
}

export function FileButton({ label, accept, multiple = false, onFiles, ...button }: FileButtonProps) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button {...button} onClick={() => input.current?.click()} />
      <input
        ref={input}
        type="file"
        aria-label={label}
        accept={accept}
        multiple={multiple}
        className="hidden"
        onChange={(event) => {
          const [first, ...others] = event.target.files ?? [];
          event.target.value = '';
          if (first) onFiles([first, ...others]);
        }}
      />
    </>
  );
}

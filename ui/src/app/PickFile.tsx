import { Button, type ButtonProps } from 'antd';
import { useRef } from 'react';

export const audioFiles = '.wav,.flac,.mp3,audio/*';
export const midiFiles = '.mid,.midi';

/** A button that lets a file be chosen. */
export function PickFile({
  accept,
  take,
  id,
  ...button
}: { accept: string; take: (f: File) => Promise<void>; id?: string } & Omit<ButtonProps, 'onClick' | 'id'>) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button {...button} onClick={() => input.current?.click()} />
      <input
        ref={input}
        type="file"
        accept={accept}
        hidden
        data-id={id}
        onChange={(e) => {
          const f = e.target.files?.[0];
          if (f) void take(f);
          e.target.value = ''; // so that the same file can be chosen again
        }}
      />
    </>
  );
}

import { Button, type ButtonProps } from 'antd';
import { type ReactNode, useRef } from 'react';

export const audioFiles = '.wav,.aif,.aiff,.flac,.mp3,audio/*';
export const midiFiles = '.mid,.midi';

export interface Picking {
  accept: string;
  take: (files: File[]) => Promise<unknown>;
  id?: string | undefined;
  /** several files, or a whole folder */
  several?: 'files' | 'folder' | undefined;
}

/** An input for files that is not seen, and what opens it. */
export function useFiles({ accept, take, id, several }: Picking): { input: ReactNode; open: () => void } {
  const ref = useRef<HTMLInputElement>(null);
  const input = (
    <input
      ref={ref}
      type="file"
      accept={accept}
      hidden
      data-id={id}
      multiple={several !== undefined}
      {...(several === 'folder' ? { webkitdirectory: '' } : {})}
      onChange={(e) => {
        const files = [...(e.target.files ?? [])];
        e.target.value = ''; // so that the same file can be chosen again
        if (files.length > 0) void take(files);
      }}
    />
  );
  return { input, open: () => ref.current?.click() };
}

/** A button that lets a file be chosen. */
export function PickFile({
  accept,
  take,
  id,
  ...button
}: { accept: string; take: (f: File) => Promise<unknown>; id?: string } & Omit<
  ButtonProps,
  'onClick' | 'id'
>) {
  const { input, open } = useFiles({ accept, id, take: ([f]) => (f ? take(f) : Promise.resolve()) });
  return (
    <>
      <Button {...button} onClick={open} />
      {input}
    </>
  );
}

// The files of a drop, those in folders with their paths.

/** Names of files with sounds. */
export const soundFiles = /\.(wav|wave|aif|aiff|aifc|flac|mp3|ogg|oga|opus|m4a|aac|webm|weba|zip)$/i;
const useful = (name: string) => soundFiles.test(name) || /\.(sfz|midi?)$/i.test(name);

const entriesOf = (dir: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> => {
  const reader = dir.createReader();
  const more = (got: FileSystemEntry[]): Promise<FileSystemEntry[]> =>
    new Promise((done, fail) =>
      // a reader gives some at a time, and none at the end
      reader.readEntries((some) => done(some.length === 0 ? got : more([...got, ...some])), fail),
    );
  return more([]);
};

const fileOf = (entry: FileSystemFileEntry): Promise<File> =>
  new Promise((done, fail) => entry.file(done, fail));

export interface Dropped {
  files: File[];
  /** words for where they came from */
  from: string;
  /** files in folders that are nothing for the bench */
  leftOut: number;
}

const counted = (n: number) => `${n} ${n === 1 ? 'file' : 'files'}`;

/** Reads what was dropped: files as they are, folders with all that is in them. It must be called while the drop is handled;
 * what lies in folders and is no sound, kit or MIDI file is left out. */
export async function droppedFiles(drop: DataTransfer): Promise<Dropped> {
  const entries = [...drop.items].map((i) => i.webkitGetAsEntry());
  const loose = [...drop.files];
  const files: File[] = [];
  const folders: string[] = [];
  let leftOut = 0;
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isDirectory) {
      if (entry.name.startsWith('.') || entry.name === '__MACOSX') return;
      const inside = await entriesOf(entry as FileSystemDirectoryEntry);
      for (const e of inside.toSorted((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true })))
        // oxlint-disable-next-line no-await-in-loop -- in order, and a folder of thousands is not opened at once
        await walk(e);
    } else if (useful(entry.name) && !entry.name.startsWith('.')) {
      const f = await fileOf(entry as FileSystemFileEntry);
      files.push(new File([f], entry.fullPath.replace(/^\//, ''), { type: f.type }));
    } else leftOut++;
  };
  if (!entries.some((e) => e?.isDirectory))
    return {
      files: loose,
      from: loose.length === 1 ? (loose[0]?.name ?? '') : counted(loose.length),
      leftOut,
    };
  for (const e of entries) {
    if (!e) continue;
    if (e.isDirectory) folders.push(e.name);
    // oxlint-disable-next-line no-await-in-loop -- in order
    await walk(e);
  }
  return {
    files,
    from: folders.length === 1 ? `the folder ${folders[0]}` : `${folders.length} folders`,
    leftOut,
  };
}

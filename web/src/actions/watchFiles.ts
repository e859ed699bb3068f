/**
 * Files chosen from the disk and read again when they were saved outside. Where the browser gives
 * no handles, the person chooses them anew.
 */
interface Held {
  name: string;
  getFile: () => Promise<File>;
}

const watched = new Map<
  string,
  { handles: Held[]; stamp: string; again: (files: File[]) => Promise<boolean> }
>();

const stampOf = (files: File[]) => files.map((f) => `${f.name} ${f.lastModified} ${f.size}`).join();

/**
 * Lets the person choose files; null when the browser cannot keep hold of them (then an input must
 * serve), an empty list when nothing was chosen.
 */
export async function chooseFiles(
  many: boolean,
): Promise<{ files: File[]; handles: Held[] } | null> {
  const pick = (window as unknown as { showOpenFilePicker?: (o: object) => Promise<Held[]> })
    .showOpenFilePicker;
  if (!pick) return null;
  try {
    const handles = await pick({ multiple: many });
    return { handles, files: await Promise.all(handles.map((h) => h.getFile())) };
  } catch {
    return { handles: [], files: [] };
  }
}

/**
 * `again` is called with the files when one of them was saved; it says whether it is still of use.
 */
export function watch(
  key: string,
  files: File[],
  handles: Held[],
  again: (files: File[]) => Promise<boolean>,
) {
  watched.set(key, { handles, stamp: stampOf(files), again });
}

async function look() {
  for (const [key, w] of watched) {
    try {
      const files = await Promise.all(w.handles.map((h) => h.getFile()));
      const stamp = stampOf(files);
      if (stamp === w.stamp) continue;
      w.stamp = stamp;
      if (!(await w.again(files))) watched.delete(key);
    } catch {
      watched.delete(key); /* moved or forbidden: what was read stays as it is */
    }
  }
}

setInterval(() => {
  if (watched.size) void look();
}, 1500);

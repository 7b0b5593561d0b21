/** The files of a drop, those of whole folders included, in the order of their names. */
export async function droppedFiles(transfer: DataTransfer): Promise<File[]> {
  const entries = [...transfer.items].map((item) => (item.kind === "file" ? item.webkitGetAsEntry?.() : null));
  if (!entries.some((entry) => entry?.isDirectory)) return [...transfer.files];
  const found: File[] = [];
  for (const entry of entries) if (entry) await gather(entry, found);
  return found.sort((a, b) => a.name.localeCompare(b.name, "en", { numeric: true }));
}

async function gather(entry: FileSystemEntry, found: File[]): Promise<void> {
  if (entry.name.startsWith(".")) return;
  if (entry.isFile) {
    found.push(await new Promise<File>((done, failed) => (entry as FileSystemFileEntry).file(done, failed)));
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  for (;;) {
    // A reader hands out a hundred entries at a time, and none when it is through.
    const some = await new Promise<FileSystemEntry[]>((done, failed) => reader.readEntries(done, failed));
    if (!some.length) return;
    for (const inner of some) await gather(inner, found);
  }
}

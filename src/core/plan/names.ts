/** A file's name without its ending. */
export function baseName(file: string): string {
  return file.replace(/\.[^.]*$/, '') || file;
}

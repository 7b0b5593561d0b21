/** Messages come as sentences without capital and full stop, so that they can stand within others; make one of its own. */
export function sentence(text: string): string {
  return text ? `${text[0]!.toUpperCase()}${text.slice(1)}.` : "";
}

/**
 * How often the job on this page was changed by something other than the page itself: another page, a background
 * task, the command line. A field compares the count at its first keystroke with the count when it commits.
 */
let changes = 0;

export function tellChangedElsewhere(): void {
  changes += 1;
}

export function changesElsewhere(): number {
  return changes;
}

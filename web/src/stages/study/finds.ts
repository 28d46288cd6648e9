/** Words of the trade that stand for what is called something. */
export type Alike = [RegExp, string][];

/** Whether all words that were typed are in a text, or in the words of the trade that stand for it. */
export function finds(typed: string, told: string, alike: Alike): boolean {
  const more = alike.map(([is, words]) => (is.test(told) ? words : "")).join(" ");
  const text = `${told} ${more}`.toLowerCase();
  return typed
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}

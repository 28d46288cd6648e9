const numbers = new WeakMap<object, number>();
let last = 0;

/**
 * A number for a thing as it stands, for keys of queries: the same while nothing in it changes, since a newer answer
 * keeps the parts of the one before that are alike (structural sharing).
 */
export function versionOf(thing: object | undefined): number {
  if (!thing) return 0;
  const known = numbers.get(thing);
  if (known) return known;
  last += 1;
  numbers.set(thing, last);
  return last;
}

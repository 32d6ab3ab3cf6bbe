/**
 * The order in which the answers of a row are shown while the names of the lanes are hidden: another one in each row, so
 * that no place tells a lane, and the same one whenever it is looked at.
 * @param set the id of the set
 * @returns the places of the lanes, in the order in which they are shown
 */
export function hiddenOrder(set: string, row: number, lanes: number): number[] {
  const places = Array.from({ length: lanes }, (_, place) => place);
  let state = hash(`${set} ${row}`);
  for (let last = lanes - 1; last > 0; last--) {
    state = hash(`${state}`);
    const other = state % (last + 1);
    [places[last], places[other]] = [places[other] as number, places[last] as number];
  }
  return places;
}

/** FNV-1a, with the bits mixed once more at the end. */
function hash(text: string): number {
  let value = 0x811c9dc5;
  for (const letter of text) value = Math.imul(value ^ (letter.codePointAt(0) ?? 0), 0x01000193);
  value = Math.imul(value ^ (value >>> 15), 0x2c1b3c6d);
  return (value ^ (value >>> 13)) >>> 0;
}

/** How long before and after its moment a look may be taken, in minutes: a quarter of the time to its
 * nearest neighbour (or to the start), no more than half a day, of looks two weeks apart a day, of looks a
 * month apart three days.
 *
 * `offsets`: minutes after the start, in order.
 */
export function windowsOf(offsets: readonly number[]): number[] {
  const DAY = 1440;
  return offsets.map((offset, i) => {
    const before = offset - (offsets[i - 1] ?? 0);
    const after = (offsets[i + 1] ?? Infinity) - offset;
    const gap = Math.min(before, after);
    const most = gap >= 28 * DAY ? 3 * DAY : gap >= 14 * DAY ? DAY : DAY / 2;
    return Math.max(0, Math.min(most, Math.floor(gap / 4 / 5) * 5));
  });
}

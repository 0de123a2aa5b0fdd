/** What is there for certain: a value that the types cannot know of, such as the first of a list that is not
 * empty.  Where it is missing after all, the place is told instead of something else going wrong later. */
export function sure<T>(value: T | null | undefined): T {
  if (value === null || value === undefined)
    throw new Error("Something is missing here that is always there.");
  return value;
}

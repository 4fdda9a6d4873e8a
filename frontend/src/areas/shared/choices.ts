/** What can be chosen, in words and in this order: just the values that the API's schema has. */
export const choices = <T extends string | undefined>(words: Record<NonNullable<T>, string>) =>
  Object.entries<string>(words).map(([value, label]) => ({ value: value as NonNullable<T>, label }));

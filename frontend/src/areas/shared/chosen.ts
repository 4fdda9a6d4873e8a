/** What a list with several choices says was chosen; MUI types it as the text of one. */
export function chosenOf(value: unknown): string[] {
  return Array.isArray(value) ? value.map(String) : [];
}

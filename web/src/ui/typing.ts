/** Whether a key is being typed into a field, and so is no shortcut. */
export const typing = (e: KeyboardEvent) =>
  e.target instanceof HTMLElement &&
  e.target.matches("input:not([type=checkbox], [type=file], [type=button], [type=range]), textarea, select");

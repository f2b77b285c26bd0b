/** Whether arrow keys move something in what has the focus: a list, a slider, the edge between two panels. */
export const walking = (e: KeyboardEvent) =>
  e.target instanceof HTMLElement &&
  e.target.closest(
    "[role=combobox], [role=listbox], [role=menu], [role=radiogroup], [role=tablist], [role=slider], [role=separator]",
  ) !== null;

/** Whether a key is being typed into a field, and so is no shortcut. */
export const typing = (e: KeyboardEvent) =>
  e.target instanceof HTMLElement &&
  e.target.matches("input:not([type=checkbox], [type=file], [type=button], [type=range]), textarea, select");

/** Whether more than blanks was typed: a rule for fields that may not be empty. */
export const filled = (text: string) => text.trim() !== "";

/** What a label scanner does: types into the field that has the focus, key by key, and presses Enter. */
export function scan(field: HTMLInputElement, text: string): void {
  field.focus();
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set;
  for (let end = 0; end <= text.length; end += 1) {
    set?.call(field, text.slice(0, end));
    field.dispatchEvent(new Event("input", { bubbles: true }));
  }
  const enter = new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true });
  if (field.dispatchEvent(enter)) field.form?.requestSubmit();
}

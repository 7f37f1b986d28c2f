/** Inputs that letters mean nothing to: keys pressed there may play and command. */
const textless = ['range', 'checkbox', 'radio', 'button', 'file']

/** Whether keys pressed on an element of the page are meant for it, as text or to choose by their first letter. */
export function takesText(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false
  if (target.isContentEditable) return true
  const field = target.closest('input, textarea, select, [role="combobox"], [role="listbox"], [role="menu"]')
  return field !== null && !(field instanceof HTMLInputElement && textless.includes(field.type))
}

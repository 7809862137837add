/** True while the key goes into a field, so that it is no command. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null;
  if (!target) return false;
  return target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName);
}

/** Whether a dialog, a menu or an editor is open that holds the focus. */
export const isModal = () => topModal() !== null;

/** The dialog, menu or editor that was opened last. */
export function topModal(): HTMLElement | null {
  const all = document.querySelectorAll<HTMLElement>('.MuiModal-root:not([aria-hidden="true"])');
  return all[all.length - 1] ?? null;
}

/** True where a key is meant for something else than the screen: a field, or what is open above it. */
export const isElsewhere = (event: KeyboardEvent): boolean => isTyping(event) || isModal();

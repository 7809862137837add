import './typed.css';

import { useEffect, useState } from 'react';

import { topModal } from '../parts/keys';

type Field = HTMLInputElement | HTMLTextAreaElement;

const PASSING = 'search combobox searchbox spinbutton'; // what is typed there only finds something
const TEXT = ['text', 'number', 'email', 'url', 'password'];

const isField = (target: EventTarget | null): target is Field =>
  (target instanceof HTMLTextAreaElement && !target.readOnly) ||
  (target instanceof HTMLInputElement && TEXT.includes(target.type));

const isPassing = (field: Field) =>
  PASSING.includes(field.getAttribute('role') || 'none') || field.closest('[role=search]') !== null;

/** The text of each field when it got the focus, or when it was last applied. */
const before = new WeakMap<Field, string>();

const isUnsaved = (field: Field) =>
  before.has(field) && before.get(field) !== field.value && field.value.trim() !== '' && !isPassing(field);

/** The fields whose text Escape would discard: those of the topmost dialog or editor, or the focused one. */
function unsaved(): Field | undefined {
  const modal = topModal();
  const active = document.activeElement;
  const fields = modal
    ? [...modal.querySelectorAll<Field>('input, textarea')]
    : isField(active)
      ? [active]
      : [];
  return fields.find((field) => isField(field) && isUnsaved(field));
}

/** Press the main button of a dialog with Enter in any of its fields. */
function applied(event: KeyboardEvent, field: Field) {
  const dialog = field.closest('.MuiDialog-root');
  const written = field.closest('[data-written]') !== null;
  if (!dialog || field instanceof HTMLTextAreaElement || field.closest('form')) return;
  if (field.getAttribute('role') === 'combobox' || (event.defaultPrevented && !written)) return;
  setTimeout(() => {
    const main = dialog.querySelectorAll<HTMLButtonElement>('.MuiDialogActions-root .MuiButton-contained');
    if (main.length === 1 && dialog.isConnected) main[0]?.click();
  }, 0); // once the field's own text is taken
}

/** Escape never loses what was typed without asking: where a field holds text that is not applied, the first press only says
 * so, and the next one lets it go. Enter applies: in a field of a dialog it presses the dialog's main button. */
export function TypedText() {
  const [asked, setAsked] = useState(false);
  useEffect(() => {
    let warned: Field | undefined;
    const rest = () => {
      warned = undefined;
      setAsked(false);
    };
    const enter = ({ target }: FocusEvent) => {
      if (isField(target) && !isUnsaved(target)) before.set(target, target.value);
    };
    const leave = ({ target }: FocusEvent) => {
      if (isField(target) && target.closest('[data-written]')) before.set(target, target.value); // it is applied on leaving
    };
    const first = (event: KeyboardEvent) => {
      if (event.key !== 'Escape') return rest();
      const field = unsaved();
      if (!field || field === warned) return rest();
      event.preventDefault();
      event.stopImmediatePropagation();
      warned = field;
      setAsked(true);
    };
    const last = (event: KeyboardEvent) => {
      const { target } = event;
      if (event.key !== 'Enter' || event.shiftKey || event.isComposing || !isField(target)) return;
      if (target instanceof HTMLInputElement) before.set(target, target.value);
      applied(event, target);
    };
    window.addEventListener('focusin', enter);
    window.addEventListener('focusout', leave);
    window.addEventListener('keydown', first, true);
    window.addEventListener('keydown', last);
    window.addEventListener('pointerdown', rest);
    return () => {
      window.removeEventListener('focusin', enter);
      window.removeEventListener('focusout', leave);
      window.removeEventListener('keydown', first, true);
      window.removeEventListener('keydown', last);
      window.removeEventListener('pointerdown', rest);
    };
  }, []);
  return asked ? (
    <p className="typed-text" role="status">
      What you typed is not applied yet. <kbd>Esc</kbd> again discards it.
    </p>
  ) : null;
}

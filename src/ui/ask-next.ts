/** Marks fields whose value is a placeholder. */
export const OPEN_QUESTION = 'data-open-question';

/** The focus goes to the next field that still holds a placeholder, after `from`, or to the first one there is. */
export function askNext(from?: HTMLElement): void {
  // when what was typed last has been drawn
  requestAnimationFrame(() => {
    const open = [...document.querySelectorAll<HTMLInputElement>(`input[${OPEN_QUESTION}]`)].filter(
      (field) => field !== from && field.offsetParent !== null,
    );
    const after = from && open.find((f) => from.compareDocumentPosition(f) & Node.DOCUMENT_POSITION_FOLLOWING);
    (after ?? open[0])?.focus();
  });
}

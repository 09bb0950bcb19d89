/** Milliseconds from one look to the next. */
const LEAST = 80;

/**
 * The control library leaves a few roles incomplete: closed selects name lists that are not there and do not say that they
 * are closed, and keep their label to themselves; stars sit in list items without a list. This puts them right wherever they appear.
 */
export function repairAria(root: HTMLElement): () => void {
  const references = ['aria-activedescendant', 'aria-owns', 'aria-controls'];

  function repair(): void {
    for (const box of root.querySelectorAll('[role="combobox"]')) {
      if (!box.hasAttribute('aria-expanded')) box.setAttribute('aria-expanded', 'false');
      // Selects put their label on the frame around the box that has the focus.
      const label = box.closest('.ant-select')?.getAttribute('aria-label');
      if (label && box.getAttribute('aria-label') !== label) box.setAttribute('aria-label', label);
      for (const name of references) {
        const id = box.getAttribute(name);
        if (id && !document.getElementById(id)) box.removeAttribute(name);
      }
    }
    for (const handle of root.querySelectorAll('[data-slider-label] [role="slider"]:not([aria-label])'))
      handle.setAttribute('aria-label', handle.closest('[data-slider-label]')!.getAttribute('data-slider-label')!);
    for (const item of root.querySelectorAll('[role="radiogroup"] > li:not([role])')) item.setAttribute('role', 'none');
    for (const icon of root.querySelectorAll('[role="presentation"][aria-label]')) icon.removeAttribute('aria-label');
    for (const box of root.querySelectorAll('th input[type="checkbox"]:not([aria-label])'))
      box.setAttribute('aria-label', 'Choose all rows');
    for (const box of root.querySelectorAll('td input[type="checkbox"]:not([aria-label])'))
      box.setAttribute('aria-label', 'Choose this row');
  }

  let waiting = false;
  let last = 0;
  const observer = new MutationObserver(() => {
    if (waiting) return;
    waiting = true;
    // At once, but not with every frame of a list that scrolls: it looks through the whole page.
    const rest = last + LEAST - performance.now();
    setTimeout(
      () => {
        waiting = false;
        last = performance.now();
        repair();
      },
      Math.max(0, rest),
    );
  });
  observer.observe(root, { subtree: true, childList: true, attributes: true, attributeFilter: references });
  repair();
  return () => observer.disconnect();
}

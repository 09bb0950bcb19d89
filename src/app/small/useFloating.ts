import { ref, shallowRef } from 'vue';
import { tell } from '../shell/notice';

/** The Document Picture-in-Picture interface (WICG), which TypeScript does not know yet. */
interface Floating {
  requestWindow(options: { width: number; height: number }): Promise<Window>;
}
const floating = (window as { documentPictureInPicture?: Floating }).documentPictureInPicture;

/** A window that stays above those of other programs, dressed as this one. */
export function useFloating(size: { width: number; height: number }) {
  const own = shallowRef<Window>();
  const opening = ref(false);

  /** Style sheets of this page, and those that the control library adds as it goes along. */
  function dress(target: Window): void {
    const root = target.document.documentElement;
    const copyRoot = () => {
      root.lang = document.documentElement.lang;
      root.style.cssText = document.documentElement.style.cssText;
      root.dataset.theme = document.documentElement.dataset.theme;
    };
    copyRoot();
    const copies = new Map<Node, Node>();
    const copySheets = () => {
      for (const sheet of document.head.querySelectorAll('style, link[rel="stylesheet"]')) {
        const old = copies.get(sheet);
        if (old && old.textContent === sheet.textContent) continue;
        const copy = sheet.cloneNode(true);
        if (old) target.document.head.replaceChild(copy, old);
        else target.document.head.append(copy);
        copies.set(sheet, copy);
      }
    };
    copySheets();
    const sheets = new MutationObserver(copySheets);
    sheets.observe(document.head, { childList: true, characterData: true, subtree: true });
    const themes = new MutationObserver(copyRoot);
    themes.observe(document.documentElement, { attributes: true });
    target.addEventListener('pagehide', () => {
      sheets.disconnect();
      themes.disconnect();
      own.value = undefined;
    });
  }

  /** Opens it, which only works from a key or click; or closes it. */
  async function toggle(): Promise<void> {
    if (own.value) return own.value.close();
    if (!floating) return void tell.error('This browser has no floating windows. Chromium and its relatives do.');
    if (opening.value) return;
    opening.value = true;
    try {
      const target = await floating.requestWindow(size);
      target.document.title = 'Cormorant';
      dress(target);
      own.value = target;
    } catch (error) {
      tell.error(
        `The small window could not be opened: ${(error as Error).message} Open it by a click or key in this window.`,
      );
    } finally {
      opening.value = false;
    }
  }

  return { own, toggle };
}

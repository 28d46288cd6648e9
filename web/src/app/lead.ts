const APART_MS = 50;
/** A page that builds nothing more for so long is all there. */
const STILL_MS = 2000;
const MOST_MS = 20_000;

const typed = "input:not([type=range]):not([type=hidden]):not([aria-hidden=true]), [role=combobox], select, textarea";

/** The field at a path of the documents, as it stands on the page. */
function fieldAt(path: string): HTMLElement | null {
  const name = CSS.escape(path);
  const own = document.querySelector<HTMLElement>(`[data-field="${name}"]`);
  return own?.querySelector<HTMLElement>(typed) ?? document.querySelector<HTMLElement>(`[name="${name}"]`);
}

/** Unfolds what an element lies in, brings it into view and hands it the focus. */
export function bring(element: HTMLElement): void {
  for (let fold = element.closest("details"); fold; fold = fold.parentElement?.closest("details") ?? null)
    fold.open = true;
  element.scrollIntoView({ block: "center" });
  element.focus({ preventScroll: true });
}

/** Waits until a page that was gone to has the element, and brings it; false where the page is all there without it. */
async function once(find: () => HTMLElement | null): Promise<boolean> {
  const begun = performance.now();
  let changed = begun;
  const built = new MutationObserver(() => {
    changed = performance.now();
  });
  built.observe(document.body, { childList: true, subtree: true });
  try {
    while (performance.now() - changed < STILL_MS && performance.now() - begun < MOST_MS) {
      await new Promise((done) => setTimeout(done, APART_MS));
      const element = find();
      if (element) {
        bring(element);
        return true;
      }
    }
    return false;
  } finally {
    built.disconnect();
  }
}

/** Leads to the field at a path once its page shows it; false where the page does not. */
export const leadTo = (path: string): Promise<boolean> => once(() => fieldAt(path));

/** Leads to a part of a sheet by the words on its fold or heading. */
export const leadToPart = (words: string): Promise<boolean> =>
  once(() => {
    const heads = document.querySelectorAll<HTMLElement>(".sheet summary, .sheet h2, .sheet h3");
    const head = [...heads].find((h) => h.textContent?.trim().toLowerCase().startsWith(words.toLowerCase()));
    const fold = head?.closest("details");
    if (fold && head?.tagName === "SUMMARY") fold.open = true;
    if (head && head.tagName !== "SUMMARY") head.tabIndex = -1;
    return head ?? null;
  });

const TRIES = 40;
const APART_MS = 50;

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

/** Waits until a page that was gone to has the element, and brings it; false where it does not come. */
async function once(find: () => HTMLElement | null): Promise<boolean> {
  for (let k = 0; k < TRIES; k++) {
    await new Promise((done) => setTimeout(done, APART_MS));
    const element = find();
    if (element) {
      bring(element);
      return true;
    }
  }
  return false;
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

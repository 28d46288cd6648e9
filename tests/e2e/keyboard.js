/** What the keyboard needs of a page: where it is, what it should reach, and whether it can be seen there. Each is a function of `window.keys`. */
(() => {
  const REACHED = "a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), summary, [tabindex='0']";
  const LOOK = ["outlineStyle", "outlineWidth", "outlineColor", "boxShadow", "borderColor", "borderWidth", "backgroundColor", "color", "stroke", "strokeWidth", "textDecorationLine", "opacity"];
  const ids = new WeakMap();
  let n = 0;
  const id = (e) => ids.get(e) ?? ids.set(e, ++n).get(e);
  const around = (e) => [e, e.parentElement, e.parentElement?.parentElement, ...(e.parentElement?.children ?? []), ...e.children];
  const look = (e) => {
    const seen = around(e).filter((a) => a instanceof Element);
    return seen.map((a) => LOOK.map((k) => getComputedStyle(a)[k]).join() + getComputedStyle(a, "::after").borderColor).join("|");
  };
  const call = (e) => (e.getAttribute("aria-label") || e.getAttribute("name") || e.textContent || e.tagName).trim().slice(0, 60);
  let last = null;
  window.keys = {
    /** What can be reached by Tab, in groups of radio buttons only one of each. */
    reached() {
      const radios = new Map();
      return [...document.querySelectorAll(REACHED)]
        .filter((e) => e.tabIndex >= 0 && e.checkVisibility({ visibilityProperty: true }) && !e.closest("[inert], [aria-hidden=true]"))
        .filter((e) => {
          if (e.type !== "radio" || !e.name) return true;
          const group = [...document.querySelectorAll("input[type=radio]")].filter((o) => o.name === e.name);
          return e === (group.find((o) => o.checked) ?? group[0]);
        })
        .map((e) => ({ id: id(e), called: call(e) }));
    },
    /** Where the keyboard is, and of what it has just left whether it looked otherwise while it was there. */
    here() {
      const left = last && last.element.isConnected ? { called: call(last.element), seen: look(last.element) !== last.look } : null;
      const e = document.activeElement;
      const on = e && e !== document.body && e !== document.documentElement;
      last = on ? { element: e, look: look(e) } : null;
      return { id: on ? id(e) : null, called: on ? call(e) : null, left };
    },
  };
})();

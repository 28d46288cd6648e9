// Finds text that is cut, broken within a word or overlapped on the page as it stands; returns a line for each, by its words.
() => {
  const shownOf = (e) => {
    const style = getComputedStyle(e);
    return style.visibility !== "hidden" && style.opacity !== "0";
  };
  const clips = (style) => ["hidden", "clip"].includes(style.overflowX);
  const scrolls = (style) => ["auto", "scroll"].includes(style.overflowX) || ["auto", "scroll"].includes(style.overflowY);
  const skipped = "svg, canvas, .sr, [aria-hidden=true], option, script, style, noscript, .MuiTouchRipple-root";
  const texts = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    const words = node.textContent.trim();
    const owner = node.parentElement;
    if (!words || !owner || owner.closest(skipped)) continue;
    const folded = owner.closest("details:not([open])");
    if (folded && !owner.closest("summary")) continue;
    if (!shownOf(owner)) continue;
    const range = document.createRange();
    range.selectNodeContents(node);
    const boxes = [...range.getClientRects()].filter((b) => b.width > 0.5 && b.height > 0.5);
    if (boxes.length > 0) texts.push({ words, owner, boxes, node });
  }
  const pen = document.createElement("canvas").getContext("2d");
  for (const field of document.querySelectorAll("input:not([type=range]):not([type=checkbox]):not([type=color]):not([type=radio]), textarea")) {
    if (field.closest("[aria-hidden=true], details:not([open])") || field.offsetWidth === 0) continue;
    const words = field.value || field.placeholder;
    const box = field.getBoundingClientRect();
    if (words && field.tagName === "TEXTAREA") {
      // it wraps, but not within a word
      const style = getComputedStyle(field);
      pen.font = style.font;
      const room = field.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight);
      const long = words.split(/\s+/).find((word) => word.length < 19 && pen.measureText(word).width > room + 1);
      if (long) texts.push({ words: long, owner: field, boxes: [box], cut: true });
    } else if (words && field.tagName === "INPUT" && field.scrollWidth > field.clientWidth + 1 && !field.matches("[data-long]"))
      texts.push({ words, owner: field, boxes: [box], cut: true });
  }
  const faults = [];
  /** Words that are broken off in their midst; a very long one may be. */
  const broken = (node) => {
    const range = document.createRange();
    return [...node.textContent.matchAll(/\p{L}{2,18}/gu)].filter((word) => {
      range.setStart(node, word.index);
      range.setEnd(node, word.index + word[0].length);
      return new Set([...range.getClientRects()].filter((b) => b.width > 0.5).map((b) => Math.round(b.top / 6))).size > 1;
    });
  };
  const told = (e) => {
    const named = e.closest("[class]");
    return named ? "." + String(named.getAttribute("class")).trim().split(/\s+/).slice(0, 2).join(".") : e.tagName;
  };
  const window_ = { left: 0, right: document.documentElement.clientWidth };
  for (const text of texts) {
    // a name that the user gave may end in dots where its whole is told when it is pointed at
    const named = text.owner.closest(".named");
    if (named && named.closest("[title]")) continue;
    if (text.cut) {
      faults.push(`cut field: ${text.words.slice(0, 60)} in ${told(text.owner)}`);
      continue;
    }
    let cut = "";
    const above = (from, to) => text.boxes.some((b) => b.top < from - 3 || b.bottom > to + 3);
    const across = (from, to) => text.boxes.some((b) => b.left < from - 1.5 || b.right > to + 1.5);
    for (let e = text.owner; e && e !== document.body && !cut; e = e.parentElement) {
      const style = getComputedStyle(e);
      if (style.position === "fixed") break;
      const box = e.getBoundingClientRect();
      if (clips(style) && !scrolls(style) && (across(box.left, box.right) || above(box.top, box.bottom))) cut = told(e);
      if (scrolls(style)) {
        // beside a table that scrolls of itself, what lies beyond its edge is reached; a sheet must not ask for that
        if (across(box.left, box.right) && e.scrollWidth > e.clientWidth + 1 && !e.matches("[data-wide], .findings, .MuiDataGrid-virtualScroller")) cut = told(e);
        break;
      }
    }
    if (!cut && text.boxes.some((b) => b.right > window_.right + 1.5 || b.left < -1.5)) {
      if (!text.owner.closest("[data-wide], .findings, .MuiDataGrid-virtualScroller")) cut = "the window";
    }
    if (text.node && text.boxes.length > 1) for (const [word] of broken(text.node)) faults.push(`broken: ${word} in ${told(text.owner)}`);
    if (cut) faults.push(`cut: ${text.words.slice(0, 60)} by ${cut}`);
  }
  // of a text in a part that scrolls, only what is seen can lie over another thing
  const seenOf = (text) => {
    let boxes = text.boxes.map((b) => ({ left: b.left, right: b.right, top: b.top, bottom: b.bottom }));
    for (let e = text.owner; e && e !== document.body; e = e.parentElement) {
      const style = getComputedStyle(e);
      if (style.overflowX === "visible" && style.overflowY === "visible") continue;
      const box = e.getBoundingClientRect();
      boxes = boxes.map((b) => ({
        left: Math.max(b.left, box.left),
        right: Math.min(b.right, box.right),
        top: Math.max(b.top, box.top),
        bottom: Math.min(b.bottom, box.bottom),
      }));
    }
    return boxes.filter((b) => b.right - b.left > 0.5 && b.bottom - b.top > 0.5);
  };
  const parts = [".sheet", ".readout", ".title-line", ".rail", ".study", ".findings", ".home", ".canvas-tools", ".canvas-asks"];
  for (const part of parts)
    for (const root of document.querySelectorAll(part)) {
      const inside = texts.filter((t) => root.contains(t.owner) && !t.cut);
      const flat = inside.flatMap((t) => seenOf(t).map((b) => ({ t, b })));
      flat.sort((p, q) => p.b.top - q.b.top);
      for (let i = 0; i < flat.length; i++)
        for (let j = i + 1; j < flat.length && flat[j].b.top < flat[i].b.bottom - 3; j++) {
          const [p, q] = [flat[i], flat[j]];
          if (p.t.owner === q.t.owner || p.t.owner.contains(q.t.owner) || q.t.owner.contains(p.t.owner)) continue;
          const wide = Math.min(p.b.right, q.b.right) - Math.max(p.b.left, q.b.left);
          const tall = Math.min(p.b.bottom, q.b.bottom) - Math.max(p.b.top, q.b.top);
          if (wide > 2.5 && tall > 4) faults.push(`over each other: ${p.t.words.slice(0, 30)} | ${q.t.words.slice(0, 30)} in ${part}`);
        }
    }
  const root = document.documentElement;
  if (root.scrollWidth > root.clientWidth + 1) faults.push(`the page is ${root.scrollWidth - root.clientWidth} px too wide`);
  if (root.scrollHeight > root.clientHeight + 1 && document.querySelector(".frame")) faults.push(`the page is ${root.scrollHeight - root.clientHeight} px too high`);
  return [...new Set(faults)];
}

"""What a page has written, as the browser has set it: texts that lie on each other, and texts that are cut."""

# Every line of text that can be seen, with what cuts it off; then every pair that lies on each other.
COLLISIONS = """
  const seen = [], found = [];
  const clips = (style) => [style.overflowX, style.overflowY].some((one) => one !== 'visible');
  // what lies beneath what has opened is not looked at
  const dialog = document.querySelector('[role=dialog], [data-wide]');
  const over = [...document.querySelectorAll('[role=menu], [role=listbox]')]
    .map((one) => ({one, frame: one.getBoundingClientRect()}));
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    const text = node.textContent.trim();
    const parent = node.parentElement;
    if (!text || parent.closest('script, style, textarea, option, [inert], [aria-hidden=true]')) continue;
    if (!parent.checkVisibility({visibilityProperty: true, opacityProperty: true})) continue;
    const range = document.createRange();
    range.selectNodeContents(node);
    for (const line of range.getClientRects()) {
      let box = {left: line.left, right: line.right, top: line.top, bottom: line.bottom};
      let cut = '';
      for (let one = parent; one && one !== document.body; one = one.parentElement) {
        const style = getComputedStyle(one);
        if (style.position === 'fixed') break;
        if (!clips(style) && one.localName !== 'svg') continue;
        const frame = one.getBoundingClientRect();
        const scrolls = style.overflowX === 'auto' || style.overflowX === 'scroll';
        if (!scrolls && (box.left < frame.left - 1.5 || box.right > frame.right + 1.5))
          cut = one.className.baseVal ?? one.className;
        box = {left: Math.max(box.left, frame.left), right: Math.min(box.right, frame.right),
               top: Math.max(box.top, frame.top), bottom: Math.min(box.bottom, frame.bottom)};
      }
      if (box.right - box.left < 1 || box.bottom - box.top < 3) continue;
      if (dialog && !dialog.contains(parent)) continue;
      const beneath = over.some(({one, frame}) => !one.contains(parent)
        && box.left < frame.right && frame.left < box.right && box.top < frame.bottom && frame.top < box.bottom);
      if (beneath) continue;
      if (cut !== '') found.push(`cut: ${text} (${cut})`);
      if (box.right > innerWidth + 1 || box.left < -1) found.push(`beyond the edge: ${text}`);
      // what is written on lines of a serif stands higher than its letters: a third of it is air
      const air = 0.2 * (box.bottom - box.top);
      seen.push({text, node, ...box, top: box.top + air, bottom: box.bottom - air});
    }
  }
  for (let i = 0; i < seen.length; i++) for (let j = i + 1; j < seen.length; j++) {
    const [a, b] = [seen[i], seen[j]];
    if (a.node === b.node) continue;
    const across = Math.min(a.right, b.right) - Math.max(a.left, b.left);
    const down = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
    if (across > 1.5 && down > 1.5) found.push(`${a.text} over ${b.text}`);
  }
  return [seen.length, [...new Set(found)]];
"""

# Whether each action is written as what it is: a button that looks like a link, a link in a text that looks like none.
GRAMMAR = """
  const underlined = (one) => getComputedStyle(one).textDecorationLine.includes('underline');
  const seen = (one) => one.checkVisibility({visibilityProperty: true}) && one.textContent.trim() !== '';
  const buttons = [...document.querySelectorAll('button, [role=button]')].filter(seen);
  const links = [...document.querySelectorAll('p a, article a')].filter(seen);
  return [
    ...buttons.filter((one) => underlined(one) && !one.classList.contains('lead')),
    ...links.filter((one) => !underlined(one) && !one.matches('.button, .button-strong')),
  ].map((one) => one.outerHTML.slice(0, 160));
"""

# How much of the map's room the drawing takes, and what the smallest letters on it are, in pixels.
AREA = """
  const svg = document.querySelector('[data-map] svg');
  const room = svg.getBoundingClientRect();
  const boxes = [...svg.querySelectorAll('[data-card], [data-line]')].map((one) => one.getBoundingClientRect());
  const wide = Math.max(...boxes.map((one) => one.right)) - Math.min(...boxes.map((one) => one.left));
  const high = Math.max(...boxes.map((one) => one.bottom)) - Math.min(...boxes.map((one) => one.top));
  const scale = Number(svg.dataset.scale);
  const sizes = [...svg.querySelectorAll('text')].map((one) => parseFloat(getComputedStyle(one).fontSize) * scale);
  const cards = [...svg.querySelectorAll('[data-card]')].map((one) => one.querySelectorAll('rect')[1] ?? one)
    .map((one) => one.getBoundingClientRect()).reduce((sum, one) => sum + one.width * one.height, 0);
  const whole = room.width * room.height;
  return [wide * high / whole, Math.min(...sizes), svg.querySelectorAll('[data-picture]').length, cards / whole];
"""

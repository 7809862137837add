(() => {
  const rows = [...document.querySelectorAll('tbody tr')];
  const depth = rows.map((row) => Number(row.dataset.d));
  const heads = rows.map((row) => row.classList.contains('heading'));
  const closed = new Set();
  // the heading that each subtotal belongs to
  const last = {};
  const open = [];
  rows.forEach((row, i) => {
    if (heads[i]) open[depth[i]] = i;
    else if (row.classList.contains('subtotal')) last[i] = open[depth[i]];
  });
  const show = () => {
    let under = null;
    rows.forEach((row, i) => {
      const total = last[i] !== undefined && closed.has(last[i]);
      if (under !== null && depth[i] <= under && !total) under = null;
      const own = heads[i] && closed.has(i);
      row.hidden = under !== null || total;
      row.classList.toggle('closed', own);
      row.querySelector('.toggle')?.setAttribute('aria-expanded', String(!own));
      if (under === null && own) under = depth[i];
    });
  };
  const to = (level) => {
    closed.clear();
    heads.forEach((head, i) => head && depth[i] >= level && closed.add(i));
    show();
    document.querySelectorAll('[data-level]').forEach((b) => b.setAttribute('aria-pressed', String(Number(b.dataset.level) === level)));
  };
  document.addEventListener('click', (event) => {
    const row = event.target.closest('.toggle')?.closest('tr');
    if (row) {
      const i = rows.indexOf(row);
      if (closed.has(i)) closed.delete(i);
      else closed.add(i);
      show();
    }
    const level = event.target.closest('[data-level]');
    if (level) to(Number(level.dataset.level));
    if (event.target.closest('#shade')) {
      const dark = getComputedStyle(document.documentElement).colorScheme !== 'dark';
      document.documentElement.className = dark ? 'dark' : 'light';
    }
    if (event.target.closest('#print')) window.print();
  });
  const find = document.getElementById('find');
  find?.addEventListener('input', () => {
    const wanted = find.value.trim().toLowerCase();
    const found = rows.filter((row) => {
      const hit = wanted !== '' && row.cells[0] && [...row.querySelectorAll('th')].some((c) => c.innerText.toLowerCase().includes(wanted));
      row.classList.toggle('found', hit);
      return hit;
    });
    if (found.length) {
      to(99);
      found[0].scrollIntoView({ block: 'center' });
    }
    document.getElementById('found').textContent = wanted ? `${found.length} found` : '';
  });
  const cut = document.getElementById('cut');
  if (cut) addEventListener('beforeprint', () => {
    if (document.querySelector('.printed')) return;
    const bytes = Uint8Array.from(atob(cut.textContent), (c) => c.charCodeAt(0));
    document.body.insertAdjacentHTML('beforeend', new TextDecoder().decode(bytes));
    const paper = document.querySelector('.printed');
    const chart = document.querySelector('main > .chart')?.cloneNode(true);
    if (chart) {
      chart.className = 'p-chart';
      paper.querySelector('table').before(chart);
    }
    for (const note of document.querySelectorAll('main > .scroll ~ p')) {
      const own = paper.appendChild(note.cloneNode(true));
      own.className = 'p-note';
    }
  });
})();

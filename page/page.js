'use strict';
// Searches, sorts, filters and unfolds the questions of the page. What is unfolded lies compressed in the page, some questions together.
(() => {
	const list = document.getElementById('list'), body = list.tBodies[0], controls = document.getElementById('controls');
	const rows = [...body.querySelectorAll('tr.q')], search = document.getElementById('search'), shown = document.getElementById('shown');
	const chunks = [...document.querySelectorAll('script.chunk')], inChunk = Math.ceil(rows.length / chunks.length) || 1;
	if (!('DecompressionStream' in window)) return; // the page stays as it is without scripts
	document.documentElement.classList.add('js');
	controls.hidden = document.getElementById('keys').hidden = false;
	const words = rows.map(r => (r.textContent + ' ' + r.dataset.tag).toLowerCase());
	const selects = [...controls.querySelectorAll('select')];

	const unpacked = new Map();
	const unpack = n => {
		if (!unpacked.has(n)) unpacked.set(n, (async () => {
			const bytes = Uint8Array.from(atob(chunks[n].textContent), c => c.charCodeAt(0));
			const stream = new Blob([bytes]).stream().pipeThrough(new DecompressionStream('deflate-raw'));
			return JSON.parse(await new Response(stream).text());
		})());
		return unpacked.get(n);
	};

	const detailOf = row => row.nextElementSibling && row.nextElementSibling.classList.contains('u') ? row.nextElementSibling : null;
	const unfold = async row => {
		if (row.getAttribute('aria-expanded') === 'true') return;
		row.setAttribute('aria-expanded', 'true');
		const n = +row.dataset.n, details = await unpack(Math.floor(n / inChunk));
		if (row.getAttribute('aria-expanded') !== 'true' || detailOf(row)) return; // it was folded meanwhile
		const tr = document.createElement('tr'), td = document.createElement('td');
		tr.className = 'u';
		td.className = 'unfolded';
		td.colSpan = row.cells.length;
		td.innerHTML = details[n % inChunk]; // escaped where it was made; the policy lets no script of it run
		tr.append(td);
		row.after(tr);
	};
	const fold = row => {
		row.setAttribute('aria-expanded', 'false');
		const detail = detailOf(row);
		if (detail) detail.remove();
	};
	const toggle = row => row.getAttribute('aria-expanded') === 'true' ? fold(row) : unfold(row);

	const filter = () => {
		const wanted = search.value.toLowerCase().split(/\s+/).filter(Boolean);
		const chosen = selects.filter(s => s.value).map(s => [s.dataset.of, s.value]);
		let n = 0;
		rows.forEach((row, i) => {
			const keep = wanted.every(w => words[i].includes(w)) &&
				chosen.every(([of, value]) => ` ${row.dataset[of]} `.includes(` ${value} `));
			if (keep) n++;
			if (row.hidden === keep) {
				row.hidden = !keep;
				const detail = detailOf(row);
				if (detail) detail.hidden = !keep;
			}
		});
		shown.textContent = n === rows.length ? `${n} questions` : `${n} of ${rows.length} questions`;
	};

	const order = ['wrong', 'failed', 'lucky', 'unscored', 'right', ''], changes = ['regressed', 'unstable', 'improved', ''];
	const sortBy = (head, at) => {
		const kind = head.dataset.sort, down = head.getAttribute('aria-sort') === 'ascending';
		const key = row => kind === 'run' ? order.indexOf(row.cells[at].dataset.v) : kind === 'change' ? changes.indexOf(row.dataset.change) :
			kind === 'name' ? row.id : row.dataset[kind] || '\uffff';
		list.querySelectorAll('th[aria-sort]').forEach(th => th.removeAttribute('aria-sort'));
		head.setAttribute('aria-sort', down ? 'descending' : 'ascending');
		const sorted = rows.map(row => [key(row), +row.dataset.n, row]);
		sorted.sort(([a, n], [b, m]) => (a < b ? -1 : a > b ? 1 : 0) * (down ? -1 : 1) || n - m);
		for (const [, , row] of sorted) {
			const detail = detailOf(row);
			body.append(row);
			if (detail) body.append(detail);
		}
	};
	[...list.tHead.rows[0].cells].forEach((head, at) => {
		if (!head.dataset.sort) return;
		const button = document.createElement('button');
		button.type = 'button';
		button.append(...head.childNodes);
		head.append(button);
		button.addEventListener('click', () => sortBy(head, at));
	});

	const step = (row, by) => {
		const visible = [...body.querySelectorAll('tr.q:not([hidden])')], at = visible.indexOf(row) + by;
		if (visible[at]) visible[at].focus();
	};
	for (const row of rows) {
		row.tabIndex = 0;
		row.setAttribute('aria-expanded', 'false');
		row.addEventListener('click', () => { if (!String(getSelection())) toggle(row); });
		row.addEventListener('keydown', e => {
			if (e.target !== row) return;
			const act = { Enter: () => toggle(row), ' ': () => toggle(row), ArrowDown: () => step(row, 1), ArrowUp: () => step(row, -1),
				ArrowRight: () => unfold(row), ArrowLeft: () => fold(row) }[e.key];
			if (act) { e.preventDefault(); act(); }
		});
	}
	document.addEventListener('keydown', e => {
		if (e.key === '/' && !e.target.closest('input, select')) { e.preventDefault(); search.focus(); }
	});
	controls.addEventListener('submit', e => e.preventDefault());
	controls.addEventListener('reset', () => setTimeout(filter));
	controls.addEventListener('input', filter);

	// On paper everything is unfolded, and the urgent questions are spelt out, as without scripts.
	let folded = [];
	window.addEventListener('beforeprint', () => {
		folded = [...document.querySelectorAll('main details:not([open])')];
		for (const d of folded) d.open = true;
	});
	window.addEventListener('afterprint', () => { for (const d of folded) d.open = false; });
	const spelt = document.getElementById('spelt'), paper = document.getElementById('paper');
	if (spelt) {
		window.addEventListener('beforeprint', () => { paper.innerHTML = spelt.textContent; });
		window.addEventListener('afterprint', () => { paper.replaceChildren(); });
	}

	// A link to a question opens it.
	const follow = async () => {
		const row = document.getElementById(decodeURIComponent(location.hash.slice(1)));
		if (!row || !rows.includes(row)) return;
		if (row.hidden) { controls.reset(); }
		await unfold(row);
		row.scrollIntoView();
		row.focus({ preventScroll: true });
	};
	window.addEventListener('hashchange', follow);
	filter();
	follow();
})();

"use strict";
(() => {
	const cells = [...document.querySelectorAll("#wheel [data-cell]")];
	const articles = [...document.querySelectorAll("article[data-cell]")];
	const heads = [...document.querySelectorAll("h3.when")];
	const chosen = document.getElementById("chosen");
	const choose = (cell) => {
		for (const c of cells) c.setAttribute("aria-pressed", String(c === cell));
		const key = cell?.dataset.cell;
		const shown = articles.filter((a) => !key || a.dataset.cell === key);
		for (const a of articles) a.hidden = !shown.includes(a);
		for (const h of heads) h.hidden = Boolean(key);
		chosen.hidden = !key;
		if (!key) return;
		const name = cell.getAttribute("aria-label").split(":")[0];
		chosen.firstElementChild.textContent = `${name}: ${shown.length === 1 ? "one thing was found." : shown.length ? `${shown.length} things were found.` : "nothing to deal with was found."}`;
		if (shown.length) document.getElementById("found").scrollIntoView({ block: "start" });
	};
	for (const c of cells) {
		c.setAttribute("tabindex", "0");
		c.addEventListener("click", () => choose(c));
		c.addEventListener("keydown", (e) => {
			if (e.key === "Enter" || e.key === " ") { e.preventDefault(); choose(c); }
		});
	}
	document.getElementById("all").addEventListener("click", () => choose(null));
	for (const a of document.querySelectorAll('a[href^="#f"]')) a.addEventListener("click", () => choose(null));

	const to = document.body.dataset.questions;
	for (const form of document.querySelectorAll("form.question")) {
		// One question is one request, however often it has to be tried.
		let key = null;
		const text = form.elements.text;
		text.addEventListener("input", () => { key = null; });
		form.addEventListener("submit", async (e) => {
			e.preventDefault();
			const status = form.querySelector("[role=status]");
			const button = form.querySelector("button");
			key ??= crypto.randomUUID?.() ?? "10000000-1000-4000-8000-100000000000".replace(/[018]/g, (c) => (c ^ (crypto.getRandomValues(new Uint8Array(1))[0] & (15 >> (c / 4)))).toString(16));
			button.disabled = true;
			status.textContent = "Sending…";
			try {
				const answer = await fetch(to, {
					method: "POST",
					headers: { "content-type": "application/json", "idempotency-key": key },
					body: JSON.stringify({ note_id: form.dataset.note ?? null, text: text.value }),
				});
				if (!answer.ok) throw new Error((await answer.json().catch(() => null))?.message ?? "It was not taken.");
				text.value = "";
				key = null;
				status.textContent = "Sent. The inspector answers here.";
			} catch (why) {
				status.textContent = why instanceof TypeError ? "Not sent: there is no connection. What you wrote stays here; send it again later." : `Not sent: ${why.message} What you wrote stays here.`;
			} finally {
				button.disabled = false;
			}
		});
	}
})();

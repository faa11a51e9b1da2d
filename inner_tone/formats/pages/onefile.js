(() => {
  const kept = JSON.parse(document.getElementById("sounds").textContent);
  const addresses = {};
  const addressOf = (key) => {
    if (!addresses[key]) {
      const bytes = Uint8Array.from(atob(kept.data[key]), (one) => one.charCodeAt(0));
      addresses[key] = URL.createObjectURL(new Blob([bytes], { type: kept.type }));
    }
    return addresses[key];
  };
  const pages = [document.getElementById("front"), ...document.querySelectorAll("section")];
  const [back, on, where] = ["back", "on", "where"].map((id) => document.getElementById(id));
  let here = 0;
  const quiet = () => {
    document.querySelectorAll("audio").forEach((one) => one.pause());
    document.querySelectorAll(".playing").forEach((one) => one.classList.remove("playing"));
  };
  const show = (place, focus) => {
    quiet();
    here = Math.max(0, Math.min(pages.length - 1, place));
    pages.forEach((one, number) => one.classList.toggle("here", number === here));
    document.body.classList.toggle("inside", here > 0);
    where.textContent = here ? `Step ${here} of ${pages.length - 1}` : "";
    back.disabled = here === 0;
    on.disabled = here === pages.length - 1;
    on.textContent = here ? "Next step" : "Begin";
    const hash = here ? `#step-${here}` : "";
    if (location.hash !== hash) history.replaceState(null, "", hash || location.pathname + location.search);
    if (focus) { pages[here].focus({ preventScroll: true }); scrollTo(0, 0); }
    document.dispatchEvent(new CustomEvent("step", { detail: { place: here, count: pages.length - 1 } }));
  };
  const play = (button) => {
    const audio = button.parentNode.querySelector("audio");
    const was = button.classList.contains("playing");
    quiet();
    if (was) return;
    audio.hidden = false;
    audio.src = addressOf(button.dataset.sound);
    audio.onended = quiet;
    audio.play().then(() => button.classList.add("playing"), quiet);
  };
  const choose = (button) => {
    const moments = button.closest(".moments");
    moments.querySelectorAll("[data-moment]").forEach((one) => one.setAttribute("aria-pressed", String(one === button)));
    moments.querySelectorAll(".moment").forEach((one) => one.classList.toggle("shown", one.dataset.place === button.dataset.moment));
  };
  document.querySelectorAll(".moments").forEach((one) => {
    one.classList.toggle("several", one.querySelectorAll(".moment").length > 1);
    one.querySelector(".moment").classList.add("shown");
  });
  document.addEventListener("click", (event) => {
    const button = event.target.closest("button");
    if (button?.dataset.sound) play(button);
    if (button?.dataset.moment) choose(button);
  });
  back.onclick = () => show(here - 1, true);
  on.onclick = () => show(here + 1, true);
  addEventListener("hashchange", () => show(Number(location.hash.replace("#step-", "")) || 0, true));
  addEventListener("keydown", (event) => {
    if (event.altKey || event.ctrlKey || event.metaKey || event.target.closest("audio, summary")) return;
    if (event.key === "ArrowRight" || event.key === "PageDown") { event.preventDefault(); show(here + 1, true); }
    else if (event.key === "ArrowLeft" || event.key === "PageUp") { event.preventDefault(); show(here - 1, true); }
    else if (event.key === " " && !event.target.closest("button, a")) {
      const button = pages[here].querySelector(".playing") || pages[here].querySelector(".play");
      if (button) { event.preventDefault(); play(button); }
    }
  });
  document.body.classList.add("one");
  show(Number(location.hash.replace("#step-", "")) || 0, false);
})();

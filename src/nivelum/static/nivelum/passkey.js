// Passkeys: the browser makes one, or signs in with one; the form carries what it says.

/** @param {Element | null} form */
const starts = (form) => {
  if (!(form instanceof HTMLFormElement) || !("parseRequestOptionsFromJSON" in (window.PublicKeyCredential ?? {}))) return;
  const credential = /** @type {HTMLInputElement} */ (form.elements.namedItem("credential"));
  const says = /** @type {HTMLElement} */ (form.querySelector("[data-passkey-says]"));
  const way = form.dataset.passkey;
  // An address of numbers can have no passkey: only a name can.
  if (way && !/^[\d.:[\]]+$/.test(location.hostname)) form.hidden = false;
  form.addEventListener("submit", async (event) => {
    if (credential.value) return;
    event.preventDefault();
    says.textContent = "";
    try {
      const made = await (way ? signsIn(way) : makes());
      credential.value = JSON.stringify(/** @type {PublicKeyCredential} */ (made).toJSON());
      form.submit();
    } catch {
      says.textContent = form.dataset.notDone ?? "";
    }
  });
};

/** @param {string} way */
const signsIn = async (way) => {
  const answer = await fetch(way, { headers: { "X-Requested-With": "XMLHttpRequest" } });
  const { request_options: options } = await answer.json();
  const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(options.publicKey ?? options);
  return navigator.credentials.get({ publicKey });
};

const makes = () => {
  const options = JSON.parse(document.querySelector("#passkey-options")?.textContent ?? "{}");
  const publicKey = PublicKeyCredential.parseCreationOptionsFromJSON(options.publicKey ?? options);
  return navigator.credentials.create({ publicKey });
};

starts(document.querySelector("[data-passkey]"));

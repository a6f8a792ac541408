import * as keeping from "./keeping.js";
import * as pad from "./pad.js";
import * as page from "./page.js";
import * as waiting from "./waiting.js";

document.addEventListener("DOMContentLoaded", async () => {
  await pad.begin();
  page.begin();
  waiting.begin();
  keeping.begin();
});

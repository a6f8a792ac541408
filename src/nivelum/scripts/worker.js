// The service worker: files of the application as they are, pages from the server while it answers and as last seen
// where it does not. Pages are kept by person and given to nobody else; entries are none of its business.
import { clientsClaim } from "workbox-core";
import { ExpirationPlugin } from "workbox-expiration";
import { registerRoute } from "workbox-routing";
import { CacheFirst, NetworkFirst } from "workbox-strategies";

const PERSON = "Nivelum-Person";
const PATIENCE_SECONDS = 6;
const JOB = /^(\/jobs\/[0-9a-f-]{36}\/)/;
const files = "files";
const pagesOf = (person) => `pages of ${person}`;
const photosOf = (person) => `photos of ${person}`;

self.skipWaiting();
clientsClaim();

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(files).then((cache) => cache.addAll(self.FILES)));
});

// --- whose pages ---

async function whose() {
  const noted = await (await caches.open("whose")).match("/");
  return noted ? noted.text() : "";
}

// Whoever signs in or out, nobody else's pages stay.
async function nowOf(person) {
  await (await caches.open("whose")).put("/", new Response(person));
  const theirs = [files, "whose", pagesOf(person), photosOf(person)];
  for (const name of await caches.keys()) if (!theirs.includes(name) && / of \d*$/.test(name)) await caches.delete(name);
}

// --- pages ---

// The address a page is kept under: what is only about where one stands on it is left out.
function address(url) {
  const found = new URL(url, self.location.origin);
  const room = JOB.test(found.pathname) ? found.pathname.replace(JOB, "").split("/")[0] : "";
  const named = found.pathname.replace(JOB, "") === `${room}/` ? self.SAYS[room] : undefined;
  if (named) for (const name of [...found.searchParams.keys()]) if (!named.includes(name)) found.searchParams.delete(name);
  return found.href;
}

const isPage = (response) => response.status === 200 && !response.redirected && (response.headers.get("Content-Type") ?? "").startsWith("text/html");

// Keeps a page for whom the server made it; on the sign-in page nobody is.
async function put(url, response) {
  const person = response.headers.get(PERSON) ?? "";
  if (!isPage(response)) return;
  if (!person && new URL(url).pathname !== "/sign-in/") return;
  if ((await whose()) !== person) await nowOf(person);
  if (person) await (await caches.open(pagesOf(person))).put(address(url), response);
}

// A page as last seen says so, and since when.
async function asLastSeen(response) {
  const text = await response.text();
  const headers = new Headers(response.headers);
  for (const name of ["Content-Encoding", "Content-Length"]) headers.delete(name);
  const at = new Date(response.headers.get("Date") ?? Date.now()).toISOString();
  return new Response(text.replace("<body ", `<body data-kept="${at}" `), { status: 200, headers });
}

// What is nearest to a page never opened: the same room, the job's Ground, else what is kept at all.
async function nearest(url, person) {
  const cache = await caches.open(pagesOf(person));
  const job = JOB.exec(url.pathname)?.[1];
  if (job && url.pathname === job) return Response.redirect(`${job}ground/`);
  const room = await cache.match(url.origin + url.pathname, { ignoreVary: true });
  if (room && url.pathname === `${job}ground/`) return asLastSeen(room);
  const list = await cache.match(`${url.origin}/waiting/`, { ignoreVary: true });
  return list ? asLastSeen(list) : Response.error();
}

registerRoute(
  ({ request, url, sameOrigin }) => sameOrigin && request.mode === "navigate" && !/^\/(shared|sign-out)\//.test(url.pathname) && !/\.\w+$/.test(url.pathname),
  async (given) => {
    const person = await whose();
    const pages = new NetworkFirst({
      cacheName: pagesOf(person),
      networkTimeoutSeconds: PATIENCE_SECONDS,
      matchOptions: { ignoreVary: true },
      plugins: [
        {
          cacheKeyWillBeUsed: async ({ request }) => address(request.url),
          cacheWillUpdate: async ({ request, response }) => {
            await put(request.url, response.clone());
            return null;
          },
          cachedResponseWillBeUsed: async ({ cachedResponse }) => cachedResponse && asLastSeen(cachedResponse),
          handlerDidError: async () => nearest(given.url, person),
        },
      ],
    });
    return pages.handle(given);
  },
);

registerRoute(
  ({ url, sameOrigin }) => sameOrigin && JOB.test(url.pathname) && url.pathname.includes("/photos/"),
  async (given) => new CacheFirst({ cacheName: photosOf(await whose()), plugins: [new ExpirationPlugin({ maxEntries: 120 })] }).handle(given),
  "GET",
);

registerRoute(
  ({ url, sameOrigin }) => sameOrigin && url.pathname.startsWith("/static/"),
  new CacheFirst({ cacheName: files, plugins: [new ExpirationPlugin({ maxEntries: 90 })] }),
);

// --- what pages ask of it ---

async function keepAll(addresses, also, person, port) {
  let failed = 0;
  for (const [n, url] of addresses.entries()) {
    try {
      const response = await fetch(url, { headers: { Accept: "text/html" } });
      if (response.headers.get(PERSON) !== person || response.redirected) failed += 1;
      else if (url.includes("/photos/")) await (await caches.open(photosOf(person))).put(url, response);
      else {
        if (also[url]) await put(new URL(also[url], response.url).href, response.clone());
        await put(response.url, response);
      }
    } catch {
      failed += 1;
    }
    port.postMessage({ done: n + 1 });
  }
  port.postMessage({ done: addresses.length, failed });
}

self.addEventListener("message", (event) => {
  if (event.data.keep) event.waitUntil(keepAll(event.data.keep, event.data.also, event.data.person, event.ports[0]));
  if (event.data.signedOut) event.waitUntil(nowOf(""));
});

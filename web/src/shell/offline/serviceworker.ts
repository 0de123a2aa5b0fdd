/// <reference lib="webworker" />
/** What works without a network: the app itself, and the pages last seen of a few kinds.
 *
 * Scripts, styles and fonts are kept as they were built.  A page is asked of the server first; where that
 * does not answer in time,
 * the kept one opens.  What was last shown of the shelf, today, a course and a board is kept for one person
 * and dropped when they sign
 * out.  Rounds are kept by the app itself (shell/offline/rounds.ts), and nothing that is written ever passes
 * through here.
 */
import { ExpirationPlugin } from "workbox-expiration";
import { cleanupOutdatedCaches, createHandlerBoundToURL, precacheAndRoute } from "workbox-precaching";
import { registerRoute, setCatchHandler } from "workbox-routing";
import { NetworkFirst, NetworkOnly } from "workbox-strategies";

import { isKeptPath, SEEN } from "./kept";

declare const self: ServiceWorkerGlobalScope;

const PATIENCE = 4;
cleanupOutdatedCaches();
precacheAndRoute(self.__WB_MANIFEST);

registerRoute(
  ({ request, url }) => request.mode === "navigate" && !/^\/(api|_allauth|signed-in)\//.test(url.pathname),
  new NetworkOnly({ networkTimeoutSeconds: PATIENCE }),
);
const page = createHandlerBoundToURL("/index.html");
setCatchHandler(async (options) =>
  options.request instanceof Request && options.request.mode === "navigate"
    ? page(options)
    : Response.error(),
);

registerRoute(
  ({ url, sameOrigin, request }) => sameOrigin && request.method === "GET" && isKeptPath(url.pathname),
  new NetworkFirst({
    cacheName: SEEN,
    networkTimeoutSeconds: PATIENCE,
    plugins: [new ExpirationPlugin({ maxEntries: 80, maxAgeSeconds: 14 * 24 * 3600 })],
  }),
);

self.addEventListener("install", () => void self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

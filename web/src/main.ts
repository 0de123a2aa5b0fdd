import { VueQueryPlugin } from "@tanstack/vue-query";
import { createApp } from "vue";

import App from "./App.vue";
import { queryClient } from "./shell/query";
import { resume } from "./shell/outbox";
import { useArrivals } from "./shell/arrival";
import { keepFocus } from "./shell/keepFocus";
import { router } from "./shell/router";
import "./style.css";

// After an update of the server, the page that is open knows parts that are gone: then it is loaded afresh.
window.addEventListener("vite:preloadError", () => window.location.reload());

useArrivals(router);
keepFocus();
createApp(App).use(VueQueryPlugin, { queryClient }).use(router).mount("#app");

// Answers that were given in a booth on this device, and whose page was closed before they were sent.
void resume(0);

// Without a network the app opens all the same; in development nothing is kept.
if (import.meta.env.PROD && "serviceWorker" in navigator)
  void navigator.serviceWorker.register("/serviceworker.js");

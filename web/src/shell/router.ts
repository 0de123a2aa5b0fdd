/** Addresses.  Pages for strangers need no sign-in; all others send there first and come back. */
import { keys } from "@/shell/queryKeys";
import { createRouter, createWebHistory } from "vue-router";

import { finishLeaving } from "./api/accounts";
import { answer, api } from "./api/client";
import { isHere, resume } from "./outbox";
import { queryClient } from "./query";

export const router = createRouter({
  history: createWebHistory(),
  scrollBehavior: () => ({ top: 0 }),
  routes: [
    { path: "/", name: "shelf", component: () => import("@/stages/rounds/ShelfPage.vue") },
    { path: "/today", name: "today", component: () => import("@/stages/rounds/TodayPage.vue") },
    {
      path: "/trials/:id",
      component: () => import("./frame/TrialFrame.vue"),
      props: true,
      children: [
        { path: "", name: "board", component: () => import("@/stages/rounds/BoardPage.vue"), props: true },
        {
          path: "plan/:part?",
          name: "plan",
          component: () => import("@/stages/plan/PlanPage.vue"),
          props: true,
        },
        {
          path: "prepare/:part?",
          name: "prepare",
          component: () => import("@/stages/prepare/PreparePage.vue"),
          props: true,
        },
        {
          path: "verdict",
          name: "verdict",
          component: () => import("@/stages/verdict/VerdictPage.vue"),
          props: true,
        },
        {
          path: "share",
          name: "share",
          component: () => import("@/stages/share/SharePage.vue"),
          props: true,
        },
        { path: "people", name: "people", component: () => import("./people/PeoplePage.vue"), props: true },
        {
          path: "agreement",
          name: "agreement",
          component: () => import("@/stages/rounds/AgreementPage.vue"),
          props: true,
        },
        {
          path: "panels",
          name: "panels",
          component: () => import("@/stages/panels/PanelsPage.vue"),
          props: true,
        },
        {
          path: "panels/:panel",
          name: "panel",
          component: () => import("@/stages/panels/PanelPage.vue"),
          props: true,
        },
        {
          path: "photos",
          name: "photos",
          component: () => import("@/stages/rounds/PhotosPage.vue"),
          props: true,
        },
        {
          path: "gauge/:checkpoint?/:outcome?",
          name: "gauge",
          component: () => import("@/stages/rounds/gauge/GaugePage.vue"),
          props: true,
        },
        {
          path: "training",
          name: "training",
          component: () => import("@/stages/rounds/training/TrainingPage.vue"),
          props: true,
        },
        {
          path: "together",
          name: "together",
          component: () => import("@/stages/rounds/training/TogetherPage.vue"),
          props: true,
        },
        {
          path: "line-up",
          name: "line-up",
          component: () => import("@/stages/verdict/LineUpPage.vue"),
          props: true,
        },
        { path: "log", name: "log", component: () => import("@/stages/rounds/LogPage.vue"), props: true },
      ],
    },
    {
      path: "/trials/:id/rounds/:checkpoint",
      name: "round",
      component: () => import("@/stages/rounds/RoundPage.vue"),
      props: true,
    },
    {
      path: "/trials/:id/training/:set",
      name: "training-set",
      component: () => import("@/stages/rounds/training/TrainingRun.vue"),
      props: true,
    },
    {
      path: "/s/:id",
      name: "sample",
      component: () => import("@/stages/rounds/SamplePage.vue"),
      props: true,
    },
    { path: "/known", name: "known", component: () => import("@/stages/share/KnownPage.vue") },
    { path: "/account", name: "account", component: () => import("./people/AccountPage.vue") },
    {
      path: "/bring/:id?",
      name: "bring",
      component: () => import("@/stages/share/BringPage.vue"),
      props: true,
    },
    { path: "/methods", name: "methods", component: () => import("@/stages/verdict/MethodsPage.vue") },
    {
      path: "/guide/:page?",
      name: "guide",
      component: () => import("@/stages/guide/GuidePage.vue"),
      props: true,
      meta: { open: true },
    },
    {
      path: "/go/:place+",
      name: "go",
      component: () => import("@/stages/guide/GoPage.vue"),
      props: true,
    },
    { path: "/bench", name: "bench", component: () => import("@/stages/prepare/BenchPage.vue") },
    {
      path: "/booth/:token",
      name: "booth",
      component: () => import("@/stages/panels/BoothPage.vue"),
      props: true,
      meta: { open: true },
    },
    {
      path: "/table/:token",
      name: "table",
      component: () => import("@/stages/panels/TabletPage.vue"),
      props: true,
      meta: { open: true },
    },
    { path: "/practice", name: "practice", component: () => import("@/stages/panels/PracticePage.vue") },
    {
      path: "/practice/:id",
      name: "practice-run",
      component: () => import("@/stages/panels/PracticeRun.vue"),
      props: true,
    },
    {
      path: "/p/:token",
      name: "published",
      component: () => import("@/stages/share/PublishedPage.vue"),
      props: true,
      meta: { open: true },
    },
    {
      path: "/helper/:token",
      name: "helper",
      component: () => import("@/stages/panels/HelperPage.vue"),
      props: true,
      meta: { open: true },
    },
    {
      path: "/sign-in",
      name: "sign-in",
      component: () => import("./people/SignInPage.vue"),
      meta: { open: true },
    },
    { path: "/join", name: "join", component: () => import("./people/JoinPage.vue"), meta: { open: true } },
    {
      path: "/confirm/:token",
      name: "confirm",
      component: () => import("./people/ConfirmPage.vue"),
      props: true,
      meta: { open: true },
    },
    {
      path: "/forgotten",
      name: "forgotten",
      component: () => import("./people/ForgottenPage.vue"),
      meta: { open: true },
    },
    {
      path: "/new-password/:token",
      name: "new-password",
      component: () => import("./people/NewPasswordPage.vue"),
      props: true,
      meta: { open: true },
    },
    {
      path: "/mailbox",
      name: "mailbox",
      component: () => import("./people/MailboxPage.vue"),
      meta: { open: true },
    },
    {
      path: "/invited/:token",
      name: "invited",
      component: () => import("./people/InvitedPage.vue"),
      props: true,
      meta: { open: true },
    },
    {
      path: "/:rest(.*)*",
      name: "nothing",
      component: () => import("./people/NothingPage.vue"),
      meta: { open: true },
    },
  ],
});

router.beforeEach(async (to) => {
  if (to.meta.open) return true;
  // Who has signed out stays out, also where the server could not be told yet.
  if (!(await finishLeaving())) return { name: "sign-in" };
  try {
    const me = await queryClient.query({
      queryKey: keys.me(),
      queryFn: () => answer(api.GET("/api/me")),
      staleTime: 60_000,
    });
    if (!isHere(me.id)) void resume(me.id);
    return true;
  } catch (error) {
    // Without a network the page still opens: what is on the device can be worked with.
    if (!(error instanceof Error) || !("status" in error)) return true;
    return { name: "sign-in", query: { to: to.fullPath } };
  }
});

/** Addresses.  Pages for strangers need no sign-in; all others send there first and come back. */
import { keys } from "@/shell/queryKeys";
import { createRouter, createWebHistory } from "vue-router";

import { finishLeaving } from "./api/accounts";
import { answer, api } from "./api/client";
import { PARTS } from "@/stages/plan/planParts";
import { isHere, resume } from "./outbox";
import { queryClient } from "./query";

export const router = createRouter({
  history: createWebHistory(),
  scrollBehavior: (_to, _from, saved) => saved ?? { top: 0 },
  routes: [
    {
      path: "/",
      name: "shelf",
      component: () => import("@/stages/rounds/ShelfPage.vue"),
      meta: { title: "Shelf" },
    },
    {
      path: "/today",
      name: "today",
      component: () => import("@/stages/rounds/TodayPage.vue"),
      meta: { title: "Today" },
    },
    {
      path: "/trials/:id",
      component: () => import("./frame/TrialFrame.vue"),
      props: true,
      children: [
        {
          path: "",
          name: "board",
          component: () => import("@/stages/rounds/BoardPage.vue"),
          props: true,
          meta: { title: "Board" },
        },
        {
          path: "plan/:part?",
          name: "plan",
          component: () => import("@/stages/plan/PlanPage.vue"),
          props: true,
          meta: { title: (route) => PARTS.find((one) => one.key === route.params.part)?.name ?? "Plan" },
        },
        {
          path: "prepare/:part?",
          name: "prepare",
          component: () => import("@/stages/prepare/PreparePage.vue"),
          props: true,
          meta: { title: "Prepare" },
        },
        {
          path: "verdict",
          name: "verdict",
          component: () => import("@/stages/verdict/VerdictPage.vue"),
          props: true,
          meta: { title: "Verdict" },
        },
        {
          path: "share",
          name: "share",
          component: () => import("@/stages/share/SharePage.vue"),
          props: true,
          meta: { title: "Share" },
        },
        {
          path: "people",
          name: "people",
          component: () => import("./people/PeoplePage.vue"),
          props: true,
          meta: { title: "People" },
        },
        {
          path: "agreement",
          name: "agreement",
          component: () => import("@/stages/rounds/AgreementPage.vue"),
          props: true,
          meta: { title: "Agreement" },
        },
        {
          path: "panels",
          name: "panels",
          component: () => import("@/stages/panels/PanelsPage.vue"),
          props: true,
          meta: { title: "Panels" },
        },
        {
          path: "panels/:panel",
          name: "panel",
          component: () => import("@/stages/panels/PanelPage.vue"),
          props: true,
          meta: { title: "Panel" },
        },
        {
          path: "photos",
          name: "photos",
          component: () => import("@/stages/rounds/PhotosPage.vue"),
          props: true,
          meta: { title: "Photos" },
        },
        {
          path: "photos/tray",
          name: "tray",
          component: () => import("@/stages/rounds/tray/TrayPage.vue"),
          props: true,
          meta: { title: "Photos that file themselves" },
        },
        {
          path: "gauge/:checkpoint?/:outcome?",
          name: "gauge",
          component: () => import("@/stages/rounds/gauge/GaugePage.vue"),
          props: true,
          meta: { title: "Measured in photos" },
        },
        {
          path: "training",
          name: "training",
          component: () => import("@/stages/rounds/training/TrainingPage.vue"),
          props: true,
          meta: { title: "Practise grading" },
        },
        {
          path: "together",
          name: "together",
          component: () => import("@/stages/rounds/training/TogetherPage.vue"),
          props: true,
          meta: { title: "Grade together" },
        },
        {
          path: "line-up",
          name: "line-up",
          component: () => import("@/stages/verdict/LineUpPage.vue"),
          props: true,
          meta: { title: "Line-up" },
        },
        {
          path: "log",
          name: "log",
          component: () => import("@/stages/rounds/LogPage.vue"),
          props: true,
          meta: { title: "Log" },
        },
      ],
    },
    {
      path: "/trials/:id/rounds/:checkpoint",
      name: "round",
      component: () => import("@/stages/rounds/RoundPage.vue"),
      props: true,
      meta: { title: "Round", alone: true },
    },
    {
      path: "/trials/:id/training/:set",
      name: "training-set",
      component: () => import("@/stages/rounds/training/TrainingRun.vue"),
      props: true,
      meta: { title: "Practise grading", alone: true },
    },
    {
      path: "/s/:id",
      name: "sample",
      component: () => import("@/stages/rounds/SamplePage.vue"),
      props: true,
      meta: { title: "Sample" },
    },
    {
      path: "/known",
      name: "known",
      component: () => import("@/stages/share/KnownPage.vue"),
      meta: { title: "What we know" },
    },
    {
      path: "/place",
      name: "place",
      component: () => import("./people/PlacePage.vue"),
      meta: { title: "This place" },
    },
    {
      path: "/account",
      name: "account",
      component: () => import("./people/AccountPage.vue"),
      meta: { title: "Your account" },
    },
    {
      path: "/bring/:id?",
      name: "bring",
      component: () => import("@/stages/share/BringPage.vue"),
      props: true,
      meta: { title: "Bring in results" },
    },
    {
      path: "/methods",
      name: "methods",
      component: () => import("@/stages/verdict/MethodsPage.vue"),
      meta: { title: "Methods compared" },
    },
    {
      path: "/guide/:page?",
      name: "guide",
      component: () => import("@/stages/guide/GuidePage.vue"),
      props: true,
      meta: { title: "Guide", open: true },
    },
    {
      path: "/go/:place+",
      name: "go",
      component: () => import("@/stages/guide/GoPage.vue"),
      props: true,
      meta: { title: "Guide" },
    },
    {
      path: "/bench/:sum?",
      name: "bench",
      component: () => import("@/stages/prepare/BenchPage.vue"),
      props: true,
      meta: { title: "Bench sums" },
    },
    {
      path: "/booth/:token",
      name: "booth",
      component: () => import("@/stages/panels/BoothPage.vue"),
      props: true,
      meta: { title: "Booth", alone: true, open: true },
    },
    {
      path: "/seat",
      name: "seat",
      component: () => import("@/stages/panels/SeatPage.vue"),
      meta: { title: "Take your seat", alone: true, open: true },
    },
    {
      path: "/tasting",
      name: "tasting",
      component: () => import("@/stages/panels/TastingPage.vue"),
      meta: { title: "Hold a tasting" },
    },
    {
      path: "/table/:token",
      name: "table",
      component: () => import("@/stages/panels/TabletPage.vue"),
      props: true,
      meta: { title: "Whose turn is it?", alone: true, open: true },
    },
    {
      path: "/practice",
      name: "practice",
      component: () => import("@/stages/panels/PracticePage.vue"),
      meta: { title: "Practise" },
    },
    {
      path: "/practice/:id",
      name: "practice-run",
      component: () => import("@/stages/panels/PracticeRun.vue"),
      props: true,
      meta: { title: "Practise" },
    },
    {
      path: "/p/:token",
      name: "published",
      component: () => import("@/stages/share/PublishedPage.vue"),
      props: true,
      meta: { title: "Published trial", open: true },
    },
    {
      path: "/helper/:token",
      name: "helper",
      component: () => import("@/stages/panels/HelperPage.vue"),
      props: true,
      meta: { title: "What goes into the cups", alone: true, open: true },
    },
    {
      path: "/sign-in",
      name: "sign-in",
      component: () => import("./people/SignInPage.vue"),
      meta: { title: "Sign in", open: true },
    },
    {
      path: "/join",
      name: "join",
      component: () => import("./people/JoinPage.vue"),
      meta: { title: "Join", open: true },
    },
    {
      path: "/confirm/:token",
      name: "confirm",
      component: () => import("./people/ConfirmPage.vue"),
      props: true,
      meta: { title: "Confirm", open: true },
    },
    {
      path: "/forgotten",
      name: "forgotten",
      component: () => import("./people/ForgottenPage.vue"),
      meta: { title: "Forgotten password", open: true },
    },
    {
      path: "/new-password/:token",
      name: "new-password",
      component: () => import("./people/NewPasswordPage.vue"),
      props: true,
      meta: { title: "New password", open: true },
    },
    {
      path: "/mailbox",
      name: "mailbox",
      component: () => import("./people/MailboxPage.vue"),
      meta: { title: "Mailbox", open: true },
    },
    {
      path: "/invited/:token",
      name: "invited",
      component: () => import("./people/InvitedPage.vue"),
      props: true,
      meta: { title: "Invitation", open: true },
    },
    {
      path: "/:rest(.*)*",
      name: "nothing",
      component: () => import("./people/NothingPage.vue"),
      meta: { title: "Nothing here", open: true },
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

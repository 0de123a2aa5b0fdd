/** Server state: what is asked, under which name it is kept, and when it is asked again. */
import { keys, ofTrial } from "@/shell/queryKeys";
import { QueryClient, useInfiniteQuery, useQuery } from "@tanstack/vue-query";
import { computed, onScopeDispose, shallowRef, toValue, type MaybeRefOrGetter } from "vue";

import { answer, api, type Schemas } from "./api/client";
import { Declined } from "./api/problems";

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => !(error instanceof Declined) && count < 2,
      staleTime: 5_000,
    },
  },
});

export const useMe = () =>
  useQuery({ queryKey: keys.me(), queryFn: () => answer(api.GET("/api/me")), staleTime: 60_000 });

/** Who is signed in, as far as that is known already; it asks nobody. */
export function useMeHere() {
  const known = () => queryClient.getQueryData<Schemas["Me"]>(keys.me());
  const me = shallowRef(known());
  // Whoever signs out clears all that is kept, so that no query can be held on to.
  onScopeDispose(queryClient.getQueryCache().subscribe(() => (me.value = known())));
  return me;
}

const useDoorstep = () =>
  useQuery({
    queryKey: keys.doorstep(),
    queryFn: () => answer(api.GET("/api/doorstep")),
    staleTime: Infinity,
  });

/** Whether this is the demo, with its accounts and mailbox. */
export function useDemo() {
  const { data } = useDoorstep();
  return computed(() => data.value?.demo ?? false);
}

/** Whether whoever comes may join without an invitation; nobody is told otherwise before it is known. */
export function useOpenDoor() {
  const { data } = useDoorstep();
  return computed(() => data.value?.open ?? true);
}

/** What people call the sign-in of this place's own; empty where there is none, or it is not known yet. */
export function useElsewhere() {
  const { data } = useDoorstep();
  return computed(() => data.value?.elsewhere ?? "");
}

export const useShelf = () =>
  useQuery({ queryKey: keys.shelf(), queryFn: () => answer(api.GET("/api/shelf")), refetchInterval: 60_000 });

type Id = MaybeRefOrGetter<string>;
const path = (id: Id) => ({ params: { path: { trial_id: toValue(id) } } });

export const useCourse = (id: Id, enabled: MaybeRefOrGetter<boolean> = true) =>
  useQuery({
    enabled: computed(() => toValue(enabled)),
    queryKey: keys.course(computed(() => toValue(id))),
    queryFn: () => answer(api.GET("/api/trials/{trial_id}/course", path(id))),
    refetchInterval: 60_000,
  });

export const useBoard = (id: Id) =>
  useQuery({
    queryKey: keys.board(computed(() => toValue(id))),
    queryFn: () => answer(api.GET("/api/trials/{trial_id}/board", path(id))),
  });

export const usePeople = (id: Id) =>
  useQuery({
    queryKey: keys.people(computed(() => toValue(id))),
    queryFn: () => answer(api.GET("/api/trials/{trial_id}/people", path(id))),
  });

/** The log, page after page, the newest first. */
export const useLog = (id: Id) =>
  useInfiniteQuery({
    queryKey: keys.log(computed(() => toValue(id))),
    queryFn: ({ pageParam }) =>
      answer(
        api.GET("/api/trials/{trial_id}/log", {
          params: { path: { trial_id: toValue(id) }, query: { before: pageParam } },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (page) => page.earlier,
  });

export const usePhotos = (id: Id) =>
  useQuery({
    queryKey: keys.photos(computed(() => toValue(id))),
    queryFn: () => answer(api.GET("/api/trials/{trial_id}/photos", path(id))),
  });

export const useHeld = (id: Id, allowed: MaybeRefOrGetter<boolean>) =>
  useQuery({
    queryKey: keys.held(computed(() => toValue(id))),
    queryFn: () => answer(api.GET("/api/trials/{trial_id}/held", path(id))),
    enabled: computed(() => toValue(allowed)),
  });

export const useMix = (id: Id) =>
  useQuery({
    queryKey: keys.mix(computed(() => toValue(id))),
    queryFn: () => answer(api.GET("/api/trials/{trial_id}/mix", path(id))),
  });

export const usePrepared = (id: Id) =>
  useQuery({
    queryKey: keys.prepared(computed(() => toValue(id))),
    queryFn: () => answer(api.GET("/api/trials/{trial_id}/prepared", path(id))),
    refetchInterval: 30_000,
  });

/** The verdict of a trial; while it is being worked out `underWay` says how far it is, and it is asked for
 * again. */
export function useVerdict(id: Id, enabled: MaybeRefOrGetter<boolean> = true) {
  const query = useQuery({
    enabled: computed(() => toValue(enabled)),
    queryKey: keys.verdict(computed(() => toValue(id))),
    queryFn: () => answer(api.GET("/api/trials/{trial_id}/verdict", path(id))),
    staleTime: 60_000,
    refetchInterval: ({ state }) =>
      state.data && "under_way" in state.data && state.data.under_way !== "failed" ? 1_000 : false,
  });
  const data = computed(() =>
    query.data.value && !("under_way" in query.data.value) ? query.data.value : undefined,
  );
  const underWay = computed(() =>
    query.data.value && "under_way" in query.data.value ? query.data.value : undefined,
  );
  return { data, underWay, error: query.error };
}

/** Ask again for all that is shown of a trial: something in it has changed. */
export async function trialChanged(
  id: string,
  parts = ["course", "board", "log", "people", "verdict", "held", "prepared", "mix", "photos"],
): Promise<void> {
  await Promise.all(
    parts.map(async (name) => {
      // A first answer that is still on its way was given before the change, and would stand as fresh.
      await queryClient.cancelQueries({ queryKey: ofTrial(name, id) });
      await queryClient.invalidateQueries({ queryKey: ofTrial(name, id) });
    }),
  );
  await queryClient.invalidateQueries({ queryKey: keys.shelf() });
}

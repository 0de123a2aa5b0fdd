<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** An invitation: who asks, for which role, and taking it up. */
import { useQuery } from "@tanstack/vue-query";
import { useRoute, useRouter } from "vue-router";

import DoorPage from "./DoorPage.vue";
import { useAct } from "@/shell/act";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { queryClient, useMe } from "@/shell/query";

const props = defineProps<{ token: string }>();
const route = useRoute();
const router = useRouter();
const { data: me } = useMe();
const { data: invitation, error } = useQuery({
  queryKey: keys.invitation(props.token),
  queryFn: () => answer(api.GET("/api/invitations/{token}", { params: { path: { token: props.token } } })),
});
const { busy, other, through } = useAct([]);
const ROLES: Record<string, string> = {
  lead: "plan and lead with them: you will see what is compared, and codes alone once it is sealed",
  preparer: "prepare the samples: you will see which sample gets which treatment",
  scorer: "score blind: you will see codes only, until the key is opened",
  viewer: "look on: you will see what is published",
};
const accept = () =>
  through(async () => {
    const { trial } = await answer(
      api.POST("/api/invitations/{token}", { params: { path: { token: props.token } } }),
    );
    await queryClient.invalidateQueries();
    await router.push({ name: "board", params: { id: trial } });
  });
</script>

<template>
  <DoorPage title="You are asked to help">
    <ProblemText v-if="error" :says="problemsOf(error)[0]!.says" />
    <template v-else-if="invitation">
      <p class="text-[1.1rem]">{{ invitation.invited_by }} asks you to {{ ROLES[invitation.role] }}.</p>
      <div v-if="me" class="mt-6">
        <button class="press press-main" :disabled="busy" @click="accept">Take it on as {{ me.name }}</button>
        <ProblemText class="mt-3" :says="other" />
      </div>
      <div v-else class="mt-6 flex flex-wrap gap-3">
        <RouterLink class="press press-main" :to="{ name: 'join', query: { to: route.fullPath } }"
          >Join</RouterLink
        >
        <RouterLink class="press" :to="{ name: 'sign-in', query: { to: route.fullPath } }"
          >Sign in</RouterLink
        >
      </div>
    </template>
  </DoorPage>
</template>

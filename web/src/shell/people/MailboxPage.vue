<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** The demo's mailbox: letters that would have been sent. */
import { useQuery } from "@tanstack/vue-query";

import NothingHere from "@/parts/NothingHere.vue";
import { moment } from "@/parts/moments";
import { answer, api } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import FieldTallyMark from "@/shell/frame/FieldTallyMark.vue";
import { useMeHere } from "@/shell/query";

const me = useMeHere();
const { data: letters, error } = useQuery({
  queryKey: keys.mailbox(),
  queryFn: () => answer(api.GET("/api/mailbox")),
  refetchInterval: 5_000,
});

/** The text in pieces: links on their own. */
const pieces = (text: string) => text.split(/(https?:\/\/\S+)/);
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
const inside = (link: string) => new URL(link).pathname;
</script>

<template>
  <main class="mx-auto max-w-3xl p-4 lg:p-8">
    <RouterLink v-if="!me" to="/" class="inline-flex min-h-11 items-center no-underline"
      ><FieldTallyMark
    /></RouterLink>
    <NothingHere v-if="error" class="mt-6" :says="problemsOf(error)[0]!.says" />
    <template v-else>
      <h1 class="mt-8">The demo’s mailbox</h1>
      <p class="mt-1 text-soft">Nothing is sent from the demo. Letters to its people land here instead.</p>
      <p v-if="letters?.length === 0" class="sheet mt-6 p-6">
        No letters yet. Invite somebody to a trial, or ask for a new password.
      </p>
      <article v-for="letter in letters" :key="letter.id" class="sheet mt-5 p-5">
        <p class="text-soft">To {{ letter.to }}, {{ moment(letter.sent_at, zone) }}</p>
        <h2 class="mt-1">{{ letter.subject }}</h2>
        <p class="mt-3 whitespace-pre-line">
          <template v-for="(piece, i) in pieces(letter.text)" :key="i">
            <RouterLink v-if="piece.startsWith('http')" :to="inside(piece)" class="break-all">{{
              piece
            }}</RouterLink>
            <template v-else>{{ piece }}</template>
          </template>
        </p>
      </article>
    </template>
  </main>
</template>

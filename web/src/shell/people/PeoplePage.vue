<script setup lang="ts">
/** Who is in a trial, and inviting others. */
import { computed, ref } from "vue";

import { useAct } from "@/shell/act";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { trialChanged, useDemo, usePeople } from "@/shell/query";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const { data: people } = usePeople(() => props.id);
const email = ref("");
const role = ref("scorer");
/** Where no letters go out: what opens the last invitation, to be passed on by hand. */
const link = ref("");
const leads = computed(() => people.value?.members.filter((one) => one.role === "lead").length ?? 1);
const { busy, says, other, through } = useAct(["email", "role"]);
const demo = useDemo();
const path = { trial_id: props.id };
const SEES: Record<string, string> = {
  lead: "plans and leads",
  preparer: "prepares the samples, sees the key for that",
  scorer: "scores by code, blind until the key is open",
  viewer: "sees what is published",
};

const invite = () =>
  through(async () => {
    const made = await answer(
      api.POST("/api/trials/{trial_id}/invitations", {
        params: { path },
        body: { email: email.value, role: role.value },
      }),
    );
    [email.value, link.value] = ["", made.link];
    await trialChanged(props.id);
  });
/** What became of inviting a team, and the links of those whom no letter reaches. */
const team = ref<number | null>(null);
const together = ref<Schemas["InvitedTeam"] | null>(null);
const inviteTeam = () =>
  through(async () => {
    if (team.value === null) return;
    together.value = await answer(
      api.POST("/api/trials/{trial_id}/invitations/team", {
        params: { path },
        body: { team: team.value, role: role.value },
      }),
    );
    await trialChanged(props.id);
  });
const withdraw = (invitation_id: number) =>
  through(async () => {
    await answer(
      api.DELETE("/api/trials/{trial_id}/invitations/{invitation_id}", {
        params: { path: { ...path, invitation_id } },
      }),
    );
    await trialChanged(props.id);
  });
const leaveOut = (membership_id: number) =>
  through(async () => {
    await answer(
      api.DELETE("/api/trials/{trial_id}/people/{membership_id}", {
        params: { path: { ...path, membership_id } },
      }),
    );
    await trialChanged(props.id);
  });
</script>

<template>
  <section class="sheet min-h-[calc(100dvh-2rem)] p-5 lg:p-8">
    <LongName class="text-soft" :text="course.title" />
    <h1>People</h1>
    <ul v-if="people" class="mt-6 max-w-3xl">
      <li v-for="one in people.members" :key="one.id" class="rule flex flex-wrap items-center gap-x-5 py-3">
        <b class="min-w-44">{{ one.name }}<span v-if="one.you" class="font-normal">, you</span></b>
        <span class="grow">{{ SEES[one.role] }}<template v-if="one.blind">, stays blind</template></span>
        <button
          v-if="people.may_invite && (one.role !== 'lead' || leads > 1)"
          class="quiet"
          :aria-label="`Take ${one.name} out`"
          @click="leaveOut(one.id)"
        >
          Take out
        </button>
      </li>
      <li
        v-for="one in people.invitations"
        :key="`i${one.id}`"
        class="rule flex flex-wrap items-center gap-x-5 py-3"
      >
        <b class="min-w-44">{{ one.email }}</b>
        <span class="grow text-soft">invited as {{ one.role }}, not answered yet</span>
        <button
          class="quiet"
          :aria-label="`Withdraw the invitation of ${one.email}`"
          @click="withdraw(one.id)"
        >
          Withdraw
        </button>
      </li>
    </ul>
    <form v-if="people?.may_invite" class="mt-8 max-w-3xl" @submit.prevent="invite">
      <h2>Invite somebody</h2>
      <div class="mt-3 grid gap-4 sm:grid-cols-[1fr_15rem_auto] sm:items-start">
        <LabelledField v-model="email" label="E-mail" type="email" autocomplete="off" :says="says('email')" />
        <div>
          <label for="role" class="mb-1 block font-bold">To</label>
          <select id="role" v-model="role" class="field">
            <option value="scorer">score, blind</option>
            <option value="lead">plan and lead with you</option>
            <option value="preparer">prepare the samples</option>
            <option value="viewer">look on</option>
          </select>
        </div>
        <button class="press press-main sm:mt-7" :disabled="busy">Send invitation</button>
      </div>
      <div v-if="people.teams.length" class="mt-4 grid gap-4 sm:grid-cols-[1fr_auto] sm:items-end">
        <label class="block"
          ><span class="mb-1 block font-bold">Or a whole team, to do the same</span>
          <select v-model="team" class="field">
            <option :value="null">which one?</option>
            <option v-for="one in people.teams" :key="one.id" :value="one.id">
              {{ one.name }}, {{ one.many === 1 ? "1 member" : `${one.many} members` }}
            </option>
          </select>
        </label>
        <button type="button" class="press" :disabled="busy || team === null" @click="inviteTeam">
          Invite the team
        </button>
      </div>
      <div v-if="together" class="mt-3" role="status">
        <p>
          {{ together.invited === 1 ? "1 was invited" : `${together.invited} were invited`
          }}{{ together.already ? `; ${together.already} had a part in it or an invitation already` : "" }}.
        </p>
        <ul v-if="together.links.length" class="mt-2 border-l-4 border-ink pl-3">
          <li v-for="one in together.links" :key="one.email">
            {{ one.email }}: <span class="code break-all select-all">{{ one.link }}</span>
          </li>
        </ul>
      </div>
      <div v-if="link" class="mt-4 border-l-4 border-ink pl-3" role="status">
        <p>
          No letters go out from here. Give them this link yourself; it opens once, and is shown now and never
          again:
        </p>
        <p class="code mt-1 break-all select-all">{{ link }}</p>
      </div>
      <p v-if="demo" class="mt-3 text-soft">
        In the demo the letter lands in <RouterLink to="/mailbox">the mailbox</RouterLink>.
      </p>
    </form>
    <ProblemText class="mt-3" :says="other" />
  </section>
</template>

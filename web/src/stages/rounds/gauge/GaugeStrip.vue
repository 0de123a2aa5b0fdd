<script setup lang="ts">
/** All photos of a look by code, each with what was measured in it. */
import { honest } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";

defineProps<{ photos: Schemas["GaugePhoto"][]; unit: string; here: string }>();
const emit = defineEmits<{ take: [photo: string] }>();
const refused = (one: Schemas["GaugePhoto"]) => one.gauging?.flags.find((flag) => flag.refuses);
</script>

<template>
  <ul class="strip" aria-label="Photos of this look">
    <li v-for="one in photos" :key="one.photo">
      <button
        type="button"
        class="shot"
        :class="{ here: one.photo === here }"
        :aria-current="one.photo === here ? 'true' : undefined"
        @click="emit('take', one.photo)"
      >
        <span class="picture" :style="{ aspectRatio: `${one.width} / ${one.height}` }">
          <img :src="`/api/photos/${one.photo}.jpg?small=true`" alt="" loading="lazy" />
          <img
            v-if="one.gauging"
            class="over"
            :src="`/api/gaugings/${one.gauging.id}.png`"
            alt=""
            loading="lazy"
            :style="{
              left: `${one.gauging.box[0]! * 100}%`,
              top: `${one.gauging.box[1]! * 100}%`,
              width: `${(one.gauging.box[2]! - one.gauging.box[0]!) * 100}%`,
              height: `${(one.gauging.box[3]! - one.gauging.box[1]!) * 100}%`,
            }"
          />
        </span>
        <span class="code text-[1.25rem]">{{ one.code }}</span>
        <span v-if="!one.gauging" class="text-soft">not measured</span>
        <b v-else-if="refused(one)" class="text-[0.92rem]">refused</b>
        <template v-else
          ><span
            ><b>{{ honest(one.gauging.value!, 3) }}</b> ± {{ honest(one.gauging.uncertainty ?? 0, 1) }}
            {{ unit }}</span
          ><span class="text-[0.9rem] text-soft"
            >{{ one.gauging.kept ? "kept" : "not kept yet"
            }}{{ one.gauging.flags.length ? ", marked" : "" }}</span
          ></template
        >
      </button>
      <p v-for="flag in one.gauging?.flags ?? []" :key="flag.key" class="mt-1 text-[0.86rem]">
        {{ flag.says }}
      </p>
    </li>
  </ul>
</template>

<style scoped>
.strip {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(9.5rem, 1fr));
  gap: 0.9rem;
}
.shot {
  display: grid;
  width: 100%;
  text-align: left;
  border: 2px solid transparent;
  padding: 3px;
}
.here {
  border-color: var(--ink);
}
.picture {
  position: relative;
  display: block;
  overflow: hidden;
  background: var(--ground);
}
.picture img {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.picture img.over {
  inset: auto;
}
</style>

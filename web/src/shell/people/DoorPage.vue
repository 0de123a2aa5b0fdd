<script setup lang="ts">
/** The page around signing in and all that belongs to it. */
import FieldTallyMark from "@/shell/frame/FieldTallyMark.vue";

defineProps<{ title: string }>();
</script>

<template>
  <main class="grid min-h-dvh lg:grid-cols-[1fr_minmax(420px,46%)]">
    <section class="on-panel flex flex-col justify-between gap-8 bg-panel p-6 text-panel-ink lg:p-12">
      <FieldTallyMark />
      <div class="max-w-xl">
        <p class="text-[1.7rem] leading-tight font-bold lg:text-[2.5rem]">
          Put things side by side. Score them blind. Know whether it was more than luck.
        </p>
        <svg class="mt-8 hidden h-28 w-full lg:block" viewBox="0 0 560 112" aria-hidden="true">
          <g
            v-for="(row, i) in [
              [7, 5, 742],
              [6, 4, 581],
              [7, 3, 936],
            ]"
            :key="i"
            :transform="`translate(0 ${i * 38 + 4})`"
          >
            <polygon points="8,0 96,0 96,28 8,28 0,20 0,8" fill="#24322b" />
            <circle cx="13" cy="14" r="4" fill="none" stroke="#eef2ee" stroke-width="1.6" />
            <text
              x="30"
              y="20.5"
              fill="#eef2ee"
              font-size="18"
              font-weight="700"
              letter-spacing="2"
              class="font-mono"
            >
              {{ row[2] }}
            </text>
            <g v-for="n in row[0]! + row[1]!" :key="n" fill="#eef2ee">
              <rect
                v-if="n % 5"
                :x="112 + (n - 1) * 11 + Math.floor((n - 1) / 5) * 4"
                y="2"
                width="5"
                height="24"
                :opacity="n > row[0]! ? 0.3 : 1"
              />
              <path
                v-else
                :d="`M${112 + (n - 5) * 11 + Math.floor((n - 1) / 5) * 4 - 6} 22 l46 -17`"
                stroke="#eef2ee"
                stroke-width="4"
                :opacity="n > row[0]! ? 0.3 : 1"
              />
            </g>
          </g>
        </svg>
      </div>
      <p class="hidden max-w-lg text-panel-soft lg:block">
        For growers, cooks, restorers, builders, keepers, makers and testers who compare what they use, and
        want to be told honestly which one wins.
      </p>
    </section>
    <section class="flex flex-col justify-center p-6 lg:p-14">
      <div class="w-full max-w-md">
        <h1 class="mb-6">{{ title }}</h1>
        <slot />
      </div>
    </section>
  </main>
</template>

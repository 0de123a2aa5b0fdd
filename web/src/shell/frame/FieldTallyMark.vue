<script setup lang="ts">
/** The sign of Field Tally: five strokes and its name. */
</script>

<template>
  <span class="inline-flex items-center gap-3 text-[1.15rem] font-bold">
    <svg viewBox="0 0 26 20" class="h-5 w-[26px]" aria-hidden="true">
      <g stroke="currentColor" stroke-width="2.6">
        <path d="M4 1v16M9.5 1v16M15 1v16M20.5 1v16M0 15 25 4" fill="none" />
      </g>
    </svg>
    Field Tally
  </span>
</template>

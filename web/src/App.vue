<script setup lang="ts">
import WaitingHere from "@/shell/frame/WaitingHere.vue";
import ShortcutList from "@/shell/frame/ShortcutList.vue";
</script>

<template>
  <RouterView />
  <ShortcutList />
  <WaitingHere />
</template>

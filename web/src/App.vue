<script setup lang="ts">
import ShortcutList from "@/shell/frame/ShortcutList.vue";
</script>

<template>
  <RouterView />
  <ShortcutList />
</template>

<script setup lang="ts">
/** A page that is one list: its title, what is in it, and a way to what makes a new one. */
defineProps<{ title: string; sub?: string; error?: string }>()
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>{{ title }}</h1>
      <span v-if="sub" class="muted small">{{ sub }}</span>
      <div class="push"><slot name="corner" /></div>
    </div>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <slot />
  </div>
</template>

<style scoped>
.page {
  flex: 1;
  min-height: 0;
  overflow: auto;
  display: flex;
  flex-direction: column;
  padding: 18px 20px;
  gap: 10px;
}
.head {
  display: flex;
  align-items: center;
  gap: 14px;
}
h1 {
  font-size: 21px;
  font-weight: 750;
}
</style>

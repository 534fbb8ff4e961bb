<script setup lang="ts">
/**
 * A sheet with a title, what is on it, and what can be done below. page: it is all of a page, not a station of a
 * docket.
 */
defineProps<{
  title: string
  sub?: string
  error?: string | null
  lead?: string
  loading?: boolean
  fixed?: boolean
  page?: boolean
}>()
</script>

<template>
  <section class="station" :class="{ page }" :aria-label="title">
    <div class="head">
      <component :is="page ? 'h1' : 'h2'">{{ title }}</component>
      <span v-if="sub" class="muted small">{{ sub }}</span>
      <div class="push"><slot name="corner" /></div>
    </div>
    <p v-if="lead" class="lead">{{ lead }}</p>
    <div class="body" :class="fixed ? 'fixed' : 'scroll'" :tabindex="fixed ? -1 : 0">
      <p v-if="loading && !error" class="empty" role="status">Reading…</p>
      <slot v-else />
    </div>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <footer><slot v-if="!loading" name="foot" /></footer>
  </section>
</template>

<style scoped>
.station {
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-top: 0;
  border-bottom: 0;
  padding: 14px 20px 0;
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}
.page {
  border-left: 0;
}
.head {
  display: flex;
  align-items: baseline;
  gap: 14px;
  min-height: 30px;
}
h1 + span,
h2 + span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
h1,
h2 {
  font-size: 19px;
  font-weight: 750;
  letter-spacing: -0.01em;
  white-space: nowrap;
}
.lead {
  color: var(--ink2);
  margin: 0 0 8px;
}
.body {
  flex: 1;
  min-height: 0;
  margin: 0 -6px;
  padding: 4px 6px;
}
.fixed {
  display: flex;
  flex-direction: column;
  overflow: hidden;
}
.message {
  margin: 8px 0;
}
footer {
  margin: 0 -20px;
  border-top: 1px solid var(--rule);
  padding: 11px 20px;
  display: flex;
  align-items: center;
  gap: 12px;
  min-height: 62px;
}
@media (max-width: 700px) {
  .station {
    border: 0;
    padding: 10px 12px 0;
  }
  .head {
    flex-wrap: wrap;
    gap: 2px 10px;
  }
  h1,
  h2,
  h1 + span,
  h2 + span {
    white-space: normal;
  }
  .fixed {
    overflow: visible;
  }
  footer {
    flex-wrap: wrap;
    margin: 0 -12px;
    padding: 10px 12px;
  }
}
</style>

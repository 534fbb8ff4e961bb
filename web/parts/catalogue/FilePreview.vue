<script setup lang="ts">
import type { Entry, FilePreview } from '../../api/types'
import { bytes, dated } from '../../words/format'

/** The beginning of a file, as text, picture or bytes; or why it cannot be looked at. */
defineProps<{ preview: FilePreview | null; entry: Entry | null; base: string }>()
</script>

<template>
  <aside class="scroll" aria-label="Preview" tabindex="0">
    <template v-if="preview">
      <h2>
        <bdi>{{ preview.path.split('/').pop() }}</bdi>
      </h2>
      <p class="small muted">
        {{ bytes(preview.size)
        }}<template v-if="preview.modified_at">, changed {{ dated(preview.modified_at) }}</template>
      </p>
      <img
        v-if="preview.kind === 'picture'"
        :src="`/api${base}/picture?path=${encodeURIComponent(preview.path)}`"
        :alt="`Picture in ${preview.path}`"
      />
      <p v-else-if="preview.kind === 'empty'" class="muted">The file is empty.</p>
      <pre v-else :class="preview.kind" tabindex="0">{{ preview.text }}</pre>
      <p v-if="preview.cut" class="small muted">Only the beginning is shown.</p>
    </template>
    <p v-else-if="entry?.note" class="small" role="status">
      <b
        ><bdi>{{ entry!.name }}</bdi></b
      >
      is {{ entry!.note }}. It cannot be looked at or taken out here.
    </p>
    <p v-else class="small muted">
      Choose a file to look at its beginning. Nothing of it is run, and nothing is written.
    </p>
  </aside>
</template>

<style scoped>
h2 {
  font-size: 15px;
  overflow-wrap: anywhere;
}
aside {
  padding: 16px 18px;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
aside img {
  max-width: 100%;
  border: 1px solid var(--rule);
  border-radius: 6px;
}
pre {
  margin: 0;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 6px;
  padding: 10px;
  font: 12.5px/1.45 var(--mono);
  overflow: auto;
  min-height: 120px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
pre.hex {
  white-space: pre;
  font-size: 11px;
}
</style>

<script setup lang="ts">
import type { FileGroup, Unsearched } from '../../api/types'
import { bytes, exact, moment } from '../../words/format'
import { imageStates } from '../../words/images'

/** Files inside of images, by their name, each with the images that hold it; and what was not searched. */
defineProps<{ text: string; files: FileGroup[] | null; unsearched: Unsearched | null }>()
const chosen = defineModel<number | null>({ required: true })
</script>

<template>
  <div class="scroll rows" tabindex="-1">
    <div v-for="group in files" :key="`${group.part}${group.path}`" class="group">
      <b class="mono">{{ group.path }}</b>
      <table class="list">
        <tbody>
          <tr
            v-for="one in group.images"
            :key="one.image_id"
            :class="{ on: one.image_id === chosen }"
            @click="chosen = one.image_id"
          >
            <td>{{ one.computer ?? 'Unknown' }}, {{ moment(one.taken_at) }}</td>
            <td>
              <span class="chip" :class="imageStates[one.state][0]">{{ imageStates[one.state][1] }}</span>
            </td>
            <td class="right" :title="exact(one.size)">{{ bytes(one.size) }}</td>
            <td>{{ one.modified_at ? `changed ${moment(one.modified_at)}` : '' }}</td>
            <td>
              <RouterLink
                :to="`/images/${one.image_id}/inside?part=${group.part}&file=${encodeURIComponent(group.path)}`"
                >Look at it</RouterLink
              >
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-if="files && !files.length" class="empty">
      <b>No checked image holds a file called “{{ text }}”</b>
    </div>
    <div v-if="unsearched?.unchecked || unsearched?.parts.length" class="gaps small muted">
      <b>Not searched</b>
      <p v-if="unsearched.unchecked">
        {{ unsearched.unchecked === 1 ? 'One image' : `${unsearched.unchecked} images` }} never checked: names are noted
        while an image is checked.
      </p>
      <p v-for="one in unsearched.parts" :key="`${one.image_id}-${one.part}`">
        {{ one.computer ?? 'Unknown' }}, {{ moment(one.taken_at) }}, part {{ one.part }}:
        {{ one.kind ? `a ${one.kind} volume, which is not read here` : one.problem }}.
      </p>
    </div>
  </div>
</template>

<style scoped>
.rows {
  flex: 1;
  min-height: 120px;
}
tr {
  cursor: pointer;
}
tr.on td {
  background: var(--ember-l);
}
.group {
  margin-bottom: 14px;
}
.group b {
  overflow-wrap: anywhere;
}
.gaps {
  border-top: 1px solid var(--rule);
  padding: 8px 0;
}
.gaps p {
  margin: 2px 0;
}
</style>

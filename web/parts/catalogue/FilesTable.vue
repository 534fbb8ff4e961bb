<script setup lang="ts">
import { nextTick, useTemplateRef, watch } from 'vue'
import type { Entry } from '../../api/types'
import { bytes, dated, exact } from '../../words/format'
import { takeable } from '../../words/images'
import { nearEnd, pieces, shows, useRows } from '../../words/rows'

/** Files and folders, each of which can be looked at and be picked to be taken out. */
const props = defineProps<{
  rows: Entry[]
  picked: Set<string>
  /** Whether the path is shown too. */ paths: boolean
}>()
const emit = defineEmits<{ look: [entry: Entry]; pick: [path: string]; end: [] }>()
const at = defineModel<number>('at', { required: true })
const list = useTemplateRef<HTMLElement>('list')
const { row, move, onKey } = useRows(list, () => props.rows.length, at)
defineExpose({ move })
const ICONS = { directory: 'pi pi-folder', file: 'pi pi-file', symlink: 'pi pi-link', other: 'pi pi-circle' }

// Another folder has other rows: the focus stays in the list.
watch(
  () => props.rows,
  async () => {
    if (!list.value?.contains(document.activeElement)) return
    await nextTick()
    if (!list.value.contains(document.activeElement)) list.value.focus()
  },
)

function scrolled() {
  if (list.value && nearEnd(list.value, 300)) emit('end')
}
</script>

<template>
  <div ref="list" class="scroll list-box" tabindex="-1" @scroll.passive="scrolled">
    <table v-if="rows.length" class="list long">
      <thead>
        <tr>
          <th><span class="hidden-words">Take out</span></th>
          <th>Name</th>
          <th class="right">Size</th>
          <th>Changed</th>
        </tr>
      </thead>
      <tbody
        v-for="piece in pieces(rows)"
        :key="piece.from"
        v-memo="[...shows(piece, at), picked, paths]"
        :style="{ '--rows': piece.rows.length }"
        @keydown="onKey"
      >
        <tr
          v-for="(entry, index) in piece.rows"
          :key="entry.path"
          v-bind="row(piece.from + index)"
          @click="emit('look', entry)"
          @focus="at = piece.from + index"
        >
          <td class="box" @click.stop>
            <input
              type="checkbox"
              :checked="picked.has(entry.path)"
              :disabled="!takeable(entry)"
              :aria-label="`Take out ${entry.name}`"
              tabindex="-1"
              @change="emit('pick', entry.path)"
            />
          </td>
          <td>
            <div class="name">
              <i :class="ICONS[entry.type]" aria-hidden="true" /><span
                ><bdi>{{ entry.name }}</bdi
                ><small v-if="paths">{{ entry.path }}</small
                ><small v-if="entry.note" class="not-here">{{ entry.note }}</small></span
              >
            </div>
          </td>
          <td class="right nowrap" :title="exact(entry.size)">
            {{ entry.type === 'file' ? bytes(entry.size) : '' }}
          </td>
          <td class="nowrap">{{ entry.modified_at ? dated(entry.modified_at) : '' }}</td>
        </tr>
      </tbody>
    </table>
    <slot v-else />
  </div>
</template>

<style scoped>
.list-box {
  flex: 1;
  min-height: 0;
}
.long {
  --columns: 42px minmax(0, 1fr) 90px 150px;
  --row: 37px;
}
tr {
  cursor: pointer;
}
tr.on td {
  background: var(--ember-l);
}
.not-here {
  color: var(--ochre-ink);
}
.name span {
  overflow-wrap: anywhere;
}
.name {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.name i {
  color: var(--ink2);
  font-size: 13px;
}
.name small {
  display: block;
  color: var(--ink2);
}
.nowrap {
  white-space: nowrap;
}
</style>

<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import type { ImageRow } from '../../api/types'
import { bytes, exact, moment } from '../../words/format'
import { stateChip } from '../../words/images'
import { nearEnd, pieces, shows, useRows } from '../../words/rows'

/** The images of the catalogue, as many of them as were looked at. */
const props = defineProps<{ rows: ImageRow[] }>()
const emit = defineEmits<{ /** The end of what is there comes into view. */ end: [] }>()
const chosen = defineModel<number | null>({ required: true })
const list = useTemplateRef<HTMLElement>('list')
const at = computed({
  get: () => props.rows.findIndex((row) => row.id === chosen.value),
  set: (index) => (chosen.value = props.rows[index]?.id ?? null),
})
const { row, move, onKey } = useRows(list, () => props.rows.length, at)
defineExpose({ move })

function scrolled() {
  if (list.value && nearEnd(list.value, 200)) emit('end')
}
</script>

<template>
  <div ref="list" class="scroll rows" tabindex="-1" @scroll.passive="scrolled">
    <table v-if="rows.length" class="list long">
      <thead>
        <tr>
          <th>Taken</th>
          <th>Computer</th>
          <th>State</th>
          <th class="right">Used</th>
          <th>Format</th>
          <th>Shelf</th>
          <th>Path</th>
        </tr>
      </thead>
      <tbody
        v-for="piece in pieces(rows)"
        :key="piece.from"
        v-memo="shows(piece, at)"
        :style="{ '--rows': piece.rows.length }"
        @keydown="onKey"
      >
        <tr
          v-for="(one, index) in piece.rows"
          :key="one.id"
          v-bind="row(piece.from + index)"
          @click="chosen = one.id"
          @focus="chosen = one.id"
        >
          <td class="nowrap">
            <b>{{ moment(one.taken_at) }}</b>
          </td>
          <td>{{ one.computer ?? 'Unknown' }}</td>
          <td>
            <span class="chip" :class="stateChip(one)[0]">{{ stateChip(one)[1] }}</span>
          </td>
          <td class="right" :title="exact(one.used_bytes)">{{ one.used_bytes ? bytes(one.used_bytes) : '–' }}</td>
          <td>{{ one.format }}</td>
          <td>{{ one.shelf }}<small v-if="!one.reachable">away</small></td>
          <td class="path" :title="one.path">
            <bdi>{{ one.path }}</bdi>
          </td>
        </tr>
      </tbody>
    </table>
    <slot v-else />
  </div>
</template>

<style scoped>
.rows {
  flex: 1;
  min-height: 120px;
}
.long {
  --columns: 164px minmax(0, 1.2fr) 118px 86px 92px minmax(0, 1fr) minmax(0, 1.3fr);
  --row: 37px;
}
td {
  overflow-wrap: anywhere;
}
tbody tr {
  cursor: pointer;
}
tr.on td {
  background: var(--ember-l);
}
td small {
  display: block;
  color: var(--ink2);
}
.nowrap {
  white-space: nowrap;
}
.path {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  direction: rtl;
  text-align: left;
  color: var(--ink2);
}
/* What stands beside the list, too: the format, and where it lies. */
@media (max-width: 1150px) {
  .long {
    --columns: 150px minmax(0, 1fr) 118px 78px minmax(0, 1.2fr);
  }
  :is(th, td):is(:nth-child(5), :nth-child(7)) {
    display: none;
  }
}
</style>

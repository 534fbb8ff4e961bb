<script setup lang="ts">
import type { SourceDrive } from '../../api/types'
import { bytes, exact, moment } from '../../words/format'

/** Attached drives that hold a system, to restore from as they are now: rows under those of the images. */
defineProps<{ drives: SourceDrive[]; sealed: boolean }>()
const chosen = defineModel<number | null>({ required: true })
const name = (one: SourceDrive) => [one.maker, one.model].filter(Boolean).join(' ')
const state = (one: SourceDrive): [string, string] =>
  one.needs_reason && one.own ? ['ask', one.needs_reason.replace(/^it is /, '')] : ['', 'As it is now']
</script>

<template>
  <tbody>
    <tr class="head">
      <th colspan="7" scope="colgroup">Attached drives, as they are now</th>
    </tr>
    <tr
      v-for="one in drives"
      :key="one.id"
      :class="{ on: chosen === one.id, stranger: !one.own }"
      @click="sealed || (chosen = one.id)"
    >
      <td>
        <input
          v-model="chosen"
          type="radio"
          name="image"
          :value="one.id"
          :disabled="sealed"
          :aria-label="`Drive in port ${one.port}`"
        />
      </td>
      <td class="nowrap">
        <b>Port {{ one.port }}</b
        ><small>{{
          one.written_at ? `last written ${moment(one.written_at)}` : 'not known when it was written'
        }}</small>
      </td>
      <td>{{ one.hosts[0] ?? one.computer ?? 'Unknown' }}</td>
      <td>
        <span class="chip" :class="state(one)[0]">{{ state(one)[1] }}</span>
      </td>
      <td class="right nowrap" :title="exact(one.used_bytes)">{{ bytes(one.used_bytes) }}</td>
      <td>
        {{ name(one) }}<small>{{ bytes(one.capacity) }}</small>
      </td>
      <td>{{ one.own ? 'Its own drive, with the newest there is' : 'Of another computer' }}</td>
    </tr>
  </tbody>
</template>

<style scoped>
.head th {
  padding-top: 12px;
  color: var(--ink2);
  font-size: 13px;
  text-align: left;
  cursor: default;
}
tr {
  cursor: pointer;
}
tr.on td {
  background: var(--ember-l);
}
tr.stranger td {
  color: var(--ink2);
}
td small {
  display: block;
  color: var(--ink2);
  font-size: 13px;
}
.nowrap {
  white-space: nowrap;
}
.chip {
  display: inline-block;
}
.chip::first-letter {
  text-transform: uppercase;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import type { DriveCard, LookAlike } from '../../api/types'
import { bytes } from '../../words/format'

/** The sealed drive and those that look like it, with the characters that differ marked. */
const props = defineProps<{ drive: DriveCard; alike: LookAlike[] }>()
const marks = computed(() => new Set(props.alike.flatMap((one) => one.marks)))
const characters = (serial: string, marked: Set<number>) =>
  [...serial].map((character, at) => ({ character, marked: marked.has(at) }))
</script>

<template>
  <section class="alike" aria-label="Look-alikes">
    <b class="small">Hold both labels beside each other</b>
    <table>
      <tbody>
        <tr class="mine">
          <td>Port {{ drive.port }}, sealed</td>
          <td>{{ bytes(drive.capacity) }} {{ drive.maker }} {{ drive.model }}</td>
          <td class="serial">
            <span v-for="(one, at) in characters(drive.serial, marks)" :key="at" :class="{ differs: one.marked }">{{
              one.character
            }}</span>
          </td>
        </tr>
        <tr v-for="other in alike" :key="other.port">
          <td>Port {{ other.port }}, left alone</td>
          <td>{{ bytes(other.capacity) }} {{ other.name }}</td>
          <td class="serial">
            <span
              v-for="(one, at) in characters(other.serial, new Set(other.marks))"
              :key="at"
              :class="{ differs: one.marked }"
              >{{ one.character }}</span
            >
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.alike {
  border: 1px solid var(--ochre);
  background: var(--ochre-l);
  border-radius: 9px;
  padding: 8px 12px;
  margin-top: 8px;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 14px;
}
td {
  padding: 2px 8px 2px 0;
}
.mine td {
  font-weight: 700;
}
.serial {
  font-family: var(--mono);
  font-size: 18px;
  letter-spacing: 0.05em;
  text-align: right;
}
.differs {
  background: var(--ember);
  color: var(--sheet);
  font-weight: 800;
  border-radius: 3px;
  padding: 0 2px;
  text-decoration: underline;
}
</style>

<script setup lang="ts">
import type { WriteOptions } from '../../api/types'

/** What is written, and what becomes of the room that the image does not fill: chosen before the first order. */
defineProps<{ options: WriteOptions }>()
const emit = defineEmits<{ choose: [given: Partial<WriteOptions>] }>()
const UNUSED = { discard: 'is discarded', zero: 'is zeroed', leave: 'stays as it is' } as const
const kinds = Object.keys(UNUSED) as (keyof typeof UNUSED)[]
</script>

<template>
  <div class="options">
    <fieldset>
      <legend>Write</legend>
      <label
        ><input
          type="radio"
          name="skip_identical"
          :checked="!options.skip_identical"
          @change="emit('choose', { skip_identical: false })"
        />
        everything</label
      >
      <label
        ><input
          type="radio"
          name="skip_identical"
          :checked="options.skip_identical"
          @change="emit('choose', { skip_identical: true })"
        />
        only what differs</label
      >
      <span v-if="options.own_drive" class="small muted"
        >The image is of this drive: most of it may be there already.</span
      >
    </fieldset>
    <fieldset v-if="options.from_drive">
      <legend>The source</legend>
      <label
        ><input
          type="checkbox"
          :checked="options.read_twice"
          @change="emit('choose', { read_twice: !options.read_twice })"
        />
        is read a second time</label
      >
      <span class="small muted">A drive that gives other bytes each time is found by that.</span>
    </fieldset>
    <fieldset v-if="options.from_drive">
      <legend>Image of it</legend>
      <label
        ><select
          :value="options.keep_on ?? ''"
          aria-label="Shelf for an image of the drive"
          @change="emit('choose', { keep_on: Number(($event.target as HTMLSelectElement).value) || null })"
        >
          <option value="">none</option>
          <option v-for="shelf in options.shelves" :key="shelf.id" :value="shelf.id" :disabled="shelf.state === 'no'">
            onto {{ shelf.name }}{{ shelf.why ? `: ${shelf.why}` : '' }}
          </option>
        </select></label
      >
      <span class="small muted">Taken on the way, from the same reading.</span>
    </fieldset>
    <fieldset>
      <legend>Unused room</legend>
      <label v-for="kind in kinds" :key="kind"
        ><input
          type="radio"
          name="unused"
          :checked="options.unused === kind"
          @change="emit('choose', { unused: kind })"
        />
        {{ UNUSED[kind] }}</label
      >
    </fieldset>
  </div>
</template>

<style scoped>
.options {
  display: grid;
  gap: 4px;
  margin-bottom: 8px;
}
fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  align-items: baseline;
}
legend {
  float: left;
  width: 108px;
  padding: 0;
  color: var(--ink2);
  font-size: 14px;
}
select {
  width: auto;
  max-width: 240px;
  padding: 3px 8px;
}
label {
  white-space: nowrap;
  font-size: 15px;
}
</style>

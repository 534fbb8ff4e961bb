<script setup lang="ts">
import { ref, watch } from 'vue'
import { api } from '../../api/client'
import type { BenchDrive, DriveRecord } from '../../api/types'
import { healthMarks, holds, taskWords } from '../../words/drives'
import { bytes, count, exact, moment } from '../../words/format'
import StateMark from '../common/StateMark.vue'
import TaskTold from './TaskTold.vue'

/** All there is to know of the drive in a port, and what is remembered of it. */
const props = defineProps<{ drive: BenchDrive; port: string; revision: string }>()
const record = ref<DriveRecord | null>(null)

watch(
  () => [props.drive.id, props.revision, props.drive.task?.state],
  async () => {
    record.value = await api.get<DriveRecord>(`/drives/${props.drive.id}`).catch(() => null)
  },
  { immediate: true },
)
</script>

<template>
  <h2>{{ bytes(drive.capacity) }} {{ drive.maker }} {{ drive.model }}</h2>
  <p class="small muted">
    {{ exact(drive.capacity) }}, {{ drive.bus }}, {{ drive.rotating ? 'rotating' : 'solid state' }}, sectors
    {{ drive.logical_sector }}/{{ drive.physical_sector }}<template v-if="drive.removable">, removable</template>
  </p>
  <p v-if="drive.task" class="message ask small">{{ taskWords(drive.task) }} <TaskTold :task="drive.task" /></p>
  <p v-if="drive.refused" class="message small">
    <b>{{ drive.refused.title }}</b> {{ drive.refused.detail }}
  </p>
  <dl class="small">
    <dt>Health</dt>
    <dd class="mark">
      <StateMark :state="healthMarks[drive.health.state]" /><span>{{
        { good: 'Good', worn: 'Worn', failing: 'Failing', unknown: 'Not known' }[drive.health.state]
      }}</span>
    </dd>
    <template v-if="drive.health.reallocated !== null"
      ><dt>Sectors</dt>
      <dd>
        {{ count(drive.health.reallocated ?? 0) }} reallocated, {{ count(drive.health.pending ?? 0) }} that cannot be
        read
      </dd></template
    >
    <template v-if="drive.health.hours !== null"
      ><dt>Used</dt>
      <dd>
        {{ count(drive.health.hours ?? 0) }} h<template v-if="drive.health.wear !== null"
          >, wear {{ drive.health.wear }} %</template
        ><template v-if="drive.health.errors">, {{ drive.health.errors }} errors in its log</template>
      </dd></template
    >
    <template v-if="drive.health.temperature !== null"
      ><dt>Warmth</dt>
      <dd>{{ drive.health.temperature }} °C</dd></template
    >
    <dt>Holds</dt>
    <dd>{{ holds(drive) }}</dd>
    <template v-if="drive.newest"
      ><dt>Newest</dt>
      <dd>
        <span class="mono">{{ drive.newest.path }}</span>, {{ moment(drive.newest.at) }}
      </dd></template
    >
    <template v-if="drive.owner"
      ><dt>Owner</dt>
      <dd>Was in {{ drive.owner }}</dd></template
    >
    <template v-if="drive.protection"
      ><dt>Kept</dt>
      <dd>
        By {{ drive.protection.by }}: {{ drive.protection.note
        }}<template v-if="drive.protection.until">, until {{ drive.protection.until }}</template>
      </dd></template
    >
    <template v-if="record?.sightings.length"
      ><dt>Seen</dt>
      <dd>
        {{
          record.sightings
            .slice(0, 3)
            .map((one) => `port ${one.port}, ${moment(one.from)}`)
            .join('; ')
        }}
      </dd></template
    >
    <template v-if="record?.dockets.length"
      ><dt>Dockets</dt>
      <dd>
        <RouterLink v-for="one in record.dockets.slice(0, 4)" :key="one.id" :to="`/dockets/${one.id}`"
          >{{ one.number }} {{ one.computer }}
        </RouterLink>
      </dd></template
    >
    <template v-if="record?.images.length"
      ><dt>Images</dt>
      <dd>
        {{ record.images.length }} of it, the newest {{ moment(record.images[0]!.taken_at) }} on
        {{ record.images[0]!.shelf }}
      </dd></template
    >
    <template v-if="record?.written.length"
      ><dt>Written</dt>
      <dd>
        {{
          record.written
            .slice(0, 3)
            .map((one) => `${one.docket}, ${moment(one.at)}${one.verified ? ', read back' : ''}`)
            .join('; ')
        }}
      </dd></template
    >
  </dl>
</template>

<style scoped>
h2 {
  font-size: 16px;
}
dl {
  display: grid;
  grid-template-columns: 62px 1fr;
  gap: 4px 10px;
  margin: 0;
}
dt {
  color: var(--ink2);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.mark {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import type { WriteTrouble } from '../../api/types'
import { vMay } from '../../words/may'

/** Why a write stopped, what that affects, and what can be done about it. */
/** port is where the target is now, null where it is in none; fromDrive where a drive is the source. */
const props = defineProps<{ trouble: WriteTrouble; port: string | null; fromDrive: boolean; busy: boolean }>()
const emit = defineEmits<{ decide: [choice: string] }>()
const SIDES = computed(() => ({
  source: props.fromDrive ? 'The drive that is read' : 'The image',
  target: 'The target',
  scratch: 'This machine',
}))
const named = computed(() => props.trouble.files.filter((file) => file.path !== null))
</script>

<template>
  <section class="trouble" role="alert" aria-label="Trouble">
    <b>{{ SIDES[trouble.side] }}: {{ trouble.message }}</b>
    <p v-if="trouble.part_name" class="small">
      In {{ trouble.part_name
      }}<template v-if="named.length"
        >, in
        <span v-for="(file, index) in named.slice(0, 4)" :key="file.path!"
          ><template v-if="index">, </template><span class="mono">{{ file.path }}</span></span
        ><template v-if="named.length > 4"> and {{ named.length - 4 }} more</template></template
      ><template v-else-if="trouble.files.length"> (which files cannot be told)</template
      ><template v-else-if="trouble.side === 'source'">, where no file lies</template>.
    </p>
    <p v-if="trouble.side === 'target' && ['away', 'moved'].includes(trouble.kind)" class="small">
      {{ port ? `It is in port ${port} now.` : 'It is in no port now.' }}
    </p>
    <ul>
      <li v-for="choice in trouble.choices" :key="choice.id">
        <button v-may="'technician'" type="button" class="btn slim" :disabled="busy" @click="emit('decide', choice.id)">
          {{ choice.title }}</button><span class="small muted">{{ choice.detail }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.trouble {
  border: 1px solid var(--crimson);
  border-left-width: 5px;
  background: var(--crimson-l);
  border-radius: 7px;
  padding: 10px 14px;
  margin-bottom: 10px;
  overflow-wrap: anywhere;
}
p {
  margin: 2px 0 0;
}
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
li {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 12px;
  align-items: center;
}
</style>

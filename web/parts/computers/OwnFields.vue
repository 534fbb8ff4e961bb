<script setup lang="ts">
/** Fields of one's own: a name and a text each. */
const fields = defineModel<{ name: string; text: string }[]>({ required: true })
const MOST = 20
</script>

<template>
  <fieldset>
    <legend class="small muted">Fields of your own</legend>
    <div v-for="(one, index) in fields" :key="index" class="one">
      <input v-model="one.name" maxlength="40" placeholder="Name" :aria-label="`Name of field ${index + 1}`" />
      <input v-model="one.text" maxlength="400" placeholder="Text" :aria-label="`Text of field ${index + 1}`" />
      <button
        type="button"
        class="btn slim"
        :aria-label="`Take field ${one.name || index + 1} away`"
        @click="fields.splice(index, 1)"
      >
        ×
      </button>
    </div>
    <button v-if="fields.length < MOST" type="button" class="btn slim" @click="fields.push({ name: '', text: '' })">
      Add a field
    </button>
  </fieldset>
</template>

<style scoped>
fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
  justify-items: start;
}
.one {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 2fr) auto;
  gap: 6px;
  width: 100%;
}
</style>

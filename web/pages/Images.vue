<script setup lang="ts">
import { useTemplateRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import CatalogueFilters from '../parts/catalogue/CatalogueFilters.vue'
import FileHits from '../parts/catalogue/FileHits.vue'
import ImageFacts from '../parts/catalogue/ImageFacts.vue'
import WhoseRow from '../parts/catalogue/WhoseRow.vue'
import ImageTable from '../parts/catalogue/ImageTable.vue'
import SpareImages from '../parts/catalogue/SpareImages.vue'
import Shelves from '../parts/catalogue/Shelves.vue'
import { ago, count } from '../words/format'
import { useKeys } from '../words/keys'
import { useCatalogue } from './useCatalogue'

const route = useRoute()
const router = useRouter()
const {
  rows,
  total,
  all,
  states,
  shelves,
  files,
  unsearched,
  image,
  error,
  loaded,
  text,
  within,
  searching,
  state,
  shelf,
  chosen,
  refresh,
  more,
  showAll,
} = useCatalogue({
  file: typeof route.query.file === 'string' ? route.query.file : undefined,
  words: typeof route.query.words === 'string' ? route.query.words : undefined,
  show: Number(route.query.show) || null,
  state: route.query.state === 'spare' ? 'spare' : '',
  shelf: Number(route.query.shelf) || '',
})
const table = useTemplateRef<InstanceType<typeof ImageTable>>('table')

useKeys({
  arrowdown: () => table.value?.move(1),
  arrowup: () => table.value?.move(-1),
  l: () => image.value && router.push(`/images/${image.value.id}/inside`),
})
</script>

<template>
  <div class="page">
    <div class="left">
      <div class="head">
        <h1>Images</h1>
        <span v-if="loaded" class="muted small"
          >{{ total === all ? count(all) : `${count(total)} of ${count(all)}` }} on {{ shelves?.length }}
          {{ shelves?.length === 1 ? 'shelf' : 'shelves' }}</span
        >
        <span class="push find">
          <input
            v-model="text"
            type="search"
            :placeholder="within === 'images' ? 'Computer, note, label, date…' : 'Name of a file, as tides-2031.db'"
            :aria-label="within === 'images' ? 'Only images with these words' : 'Name of a file inside images'"
          />
          <select v-model="within" aria-label="Where to look">
            <option value="images">in what is known</option>
            <option value="files">in file names inside</option>
          </select>
        </span>
      </div>
      <CatalogueFilters v-model:state="state" v-model:shelf="shelf" :states="states" :shelves="shelves" />
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <SpareImages v-if="state === 'spare' && rows.length" :rows="rows" :total="total" @changed="refresh" />
      <WhoseRow @show="chosen = $event" @changed="refresh" />
      <FileHits v-if="searching" v-model="chosen" :text="text" :files="files" :unsearched="unsearched" />
      <ImageTable v-else ref="table" v-model="chosen" :rows="rows" @end="more">
        <div v-if="all && loaded" class="empty">
          <b>No image fits</b><button type="button" class="btn" @click="showAll">Show all</button>
        </div>
        <div v-else-if="loaded" class="empty">
          <b>No image yet</b>Add a shelf below: a folder, an attached drive, or a place on the web. It is looked through
          at once.
        </div>
        <p v-else-if="!error" class="empty" role="status">Reading…</p>
      </ImageTable>
      <Shelves v-if="shelves" :shelves="shelves" :focus="route.query.shelves !== undefined" @changed="refresh" />
    </div>
    <aside v-if="image" class="scroll" aria-label="The chosen image" tabindex="0">
      <ImageFacts :key="image.id" :image="image" @changed="image = $event" />
      <p v-if="image.checked_at" class="small muted">Checked {{ ago(image.checked_at) }}</p>
    </aside>
    <aside v-else class="muted small">Choose an image to see what is in it.</aside>
  </div>
</template>

<style scoped>
.page {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 330px;
  grid-template-rows: minmax(0, 1fr);
}
.left {
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 16px 20px 14px;
  min-height: 0;
  background: var(--sheet);
  border-right: 1px solid var(--rule);
}
.head {
  display: flex;
  align-items: baseline;
  gap: 14px;
}
h1 {
  font-size: 21px;
  font-weight: 750;
}
.find {
  display: flex;
}
.find input {
  border-radius: 6px 0 0 6px;
  border-right: 0;
  width: 236px;
}
.find select {
  border-radius: 0 6px 6px 0;
}
aside {
  padding: 16px 18px;
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-height: 0;
}
</style>

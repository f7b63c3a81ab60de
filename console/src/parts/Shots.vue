<script setup lang="ts">
// The pictures that landing pages and footers show: kept, named, taken away.
import { NButton } from 'naive-ui'
import { ref } from 'vue'
import { useAct } from '../data/act'
import { copyText } from '../data/copy'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import FaultLine from './FaultLine.vue'

const props = defineProps<{ name: string }>()
const { value: all, error, again } = useLoading(() => ledger.pictures(props.name))
const { busy, fault, run } = useAct()
const copied = ref('')

// The name of a file as a picture may have it.
const nameOf = (file: string) => file.toLowerCase().replace(/[^a-z0-9_.-]+/g, '-').replace(/^[-_.]+/, '')
function add(e: Event) {
  const input = e.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  input.value = ''
  void run(async () => {
    for (const f of files) await ledger.putPicture(props.name, nameOf(f.name), f)
    again()
  })
}
const drop = (picture: string) => run(async () => { await ledger.dropPicture(props.name, picture); again() })
async function copy(picture: string) {
  await copyText(`![](pictures/${picture})`)
  copied.value = picture
}
</script>

<template>
  <section aria-labelledby="pictures">
    <h2 id="pictures">Pictures</h2>
    <p class="soft">Texts show one as <code>![the quay](pictures/quay.png)</code>. PNG, JPEG, GIF, WebP or SVG, at most 512 kB each.</p>
    <FaultLine :text="error" />
    <ul v-if="all?.length" class="shots">
      <li v-for="p in all" :key="p.name">
        <img :src="`${p.address}?${p.madeAt}`" alt="" height="40" />
        <span><code>{{ p.name }}</code> <span class="soft">{{ Math.ceil(p.size / 1024) }} kB, {{ p.madeBy }}</span></span>
        <button type="button" class="link" @click="copy(p.name)">{{ copied === p.name ? 'copied' : 'copy its Markdown' }}</button>
        <button type="button" class="link" :disabled="busy" :data-drop="p.name" @click="drop(p.name)">take away</button>
      </li>
    </ul>
    <label class="add"><NButton tag="span" :loading="busy">Add pictures</NButton><input type="file" multiple accept="image/png,image/jpeg,image/gif,image/webp,image/svg+xml" data-pictures @change="add" /></label>
    <FaultLine :text="fault" />
  </section>
</template>

<style scoped>
.shots { list-style: none; margin: 6px 0 12px; padding: 0; font-size: 14px; }
.shots li { border-top: 1px solid var(--rule); padding: 6px 0; display: flex; flex-wrap: wrap; gap: 4px 16px; align-items: center; }
.shots img { max-width: 90px; object-fit: contain; background: var(--slip); }
.add { display: inline-block; cursor: pointer; } .add input { position: absolute; opacity: 0; width: 1px; height: 1px; } .add:focus-within { outline: 2px solid var(--link); outline-offset: 3px; }
</style>

<script setup lang="ts">
import { NButton } from 'naive-ui'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import type { Api } from '../data/types'
import { day } from '../data/words'
import FaultLine from '../parts/FaultLine.vue'

const session = useSession()
const { value: apis, error } = useLoading(ledger.apis)

const newest = (a: Api) => [...a.versions].reverse().find((v) => v.state !== 'draft')
const drafts = (a: Api) => a.versions.filter((v) => v.state === 'draft')
const leaving = (all: Api[]) => all.flatMap((a) => a.notices).sort((a, b) => (a.sunset ?? '9').localeCompare(b.sunset ?? '9'))
</script>

<template>
  <div class="head">
    <div><h1>Shelf</h1><p v-if="apis">{{ apis.length }} APIs, {{ apis.reduce((n, a) => n + a.versions.length, 0) }} versions</p></div>
    <div class="do"><RouterLink v-if="session.mayWrite" v-slot="{ navigate }" to="/record" custom><NButton type="primary" @click="navigate">Record a version</NButton></RouterLink></div>
  </div>
  <div class="inner">
    <FaultLine :text="error" />
    <table v-if="apis" class="ruled">
      <thead><tr><th>API</th><th>team</th><th>newest</th><th>drafts</th><th>promise</th></tr></thead>
      <tbody>
        <tr v-for="a in apis" :key="a.name">
          <td><RouterLink :to="`/apis/${a.name}`"><b>{{ a.title }}</b></RouterLink> <code class="soft">{{ a.name }}</code></td>
          <td>{{ a.team }}</td>
          <td><code>{{ newest(a)?.number ?? '—' }}</code><span v-if="newest(a)" class="soft"> published {{ day(newest(a)!.publishedAt!) }}</span></td>
          <td><RouterLink v-for="d in drafts(a)" :key="d.number" :to="`/apis/${a.name}/publish/${d.number}`"><code>{{ d.number }}</code></RouterLink></td>
          <td>{{ a.promise }}</td>
        </tr>
      </tbody>
    </table>
    <template v-if="apis && leaving(apis).length">
      <h2 style="margin-top: 28px">What leaves</h2>
      <table class="ruled">
        <thead><tr><th>leaves</th><th>what</th><th>instead</th><th>why</th></tr></thead>
        <tbody>
          <tr v-for="n in leaving(apis)" :key="n.id">
            <td>{{ n.sunset ? day(n.sunset) : 'no date yet' }}</td>
            <td><RouterLink :to="`/apis/${n.api}`">{{ n.subject }}</RouterLink></td>
            <td>{{ n.replacedBy }}</td>
            <td class="soft">{{ n.reason }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>

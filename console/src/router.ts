import { createRouter, createWebHistory } from 'vue-router'
import { useSession } from './data/session'

export const router = createRouter({
  history: createWebHistory('/console/'),
  routes: [
    { path: '/sign-in', component: () => import('./pages/SignIn.vue') },
    { path: '/', component: () => import('./pages/Shelf.vue'), meta: { help: 'first-hour' } },
    { path: '/record', component: () => import('./pages/Record.vue'), meta: { help: 'ledger' } },
    { path: '/journal', component: () => import('./pages/Journal.vue'), meta: { help: 'ledger#the-journal' } },
    { path: '/people', component: () => import('./pages/People.vue'), meta: { help: 'people' } },
    { path: '/shelves', component: () => import('./pages/Shelves.vue'), meta: { help: 'people#shelves' } },
    { path: '/tokens', component: () => import('./pages/Tokens.vue'), meta: { help: 'people#tokens' } },
    { path: '/account', component: () => import('./pages/Account.vue'), meta: { help: 'people#people' } },
    { path: '/invitation', component: () => import('./pages/Invitation.vue'), meta: { open: true } },
    { path: '/apis/:name', component: () => import('./pages/Api.vue'), props: true, meta: { help: 'ledger' } },
    { path: '/apis/:name/record', component: () => import('./pages/Record.vue'), props: true, meta: { help: 'ledger' } },
    { path: '/apis/:name/publish/:number', component: () => import('./pages/Publish.vue'), props: true, meta: { help: 'ledger' } },
    { path: '/apis/:name/findings/:number', component: () => import('./pages/FindingsPage.vue'), props: true, meta: { help: 'housestyle' } },
    { path: '/apis/:name/style', component: () => import('./pages/StylePage.vue'), props: true, meta: { help: 'housestyle#a-style-of-your-own' } },
    { path: '/teams/:team/style', component: () => import('./pages/StylePage.vue'), props: true, meta: { help: 'housestyle#a-style-of-your-own' } },
    { path: '/style', component: () => import('./pages/StylePage.vue'), meta: { help: 'housestyle#a-style-of-your-own' } },
    { path: '/rules/:rule?', component: () => import('./pages/RulesPage.vue'), props: true, meta: { help: 'housestyle' } },
    { path: '/apis/:name/wording/:number', component: () => import('./pages/Wording.vue'), props: true, meta: { help: 'reference' } },
    { path: '/apis/:name/looks', component: () => import('./pages/LooksPage.vue'), props: true, meta: { help: 'reference' } },
    { path: '/apis/:name/settings', component: () => import('./pages/Settings.vue'), props: true, meta: { help: 'ledger' } },
    { path: '/apis/:name/readers', component: () => import('./pages/Readers.vue'), props: true, meta: { help: 'people#who-may-read' } },
    { path: '/readers', component: () => import('./pages/Readers.vue'), meta: { help: 'people#who-may-read' } },
    { path: '/apis/:name/embed', component: () => import('./pages/EmbedPage.vue'), props: true, meta: { help: 'embedding' } },
    { path: '/apis/:name/notices/:id', component: () => import('./pages/NoticePage.vue'), props: true, meta: { help: 'notices' } },
    { path: '/apis/:name/deprecate', component: () => import('./pages/Deprecate.vue'), props: true, meta: { help: 'notices' } },
    { path: '/apis/:name/compare/:old..:now', component: () => import('./pages/Spread.vue'), props: true, meta: { help: 'comparing' } },
    { path: '/apis/:name/guide/:old..:now', component: () => import('./pages/GuidePage.vue'), props: true, meta: { help: 'guides' } },
    { path: '/apis/:name/use', component: () => import('./pages/UsePage.vue'), props: true, meta: { help: 'consumers' } },
    { path: '/apis/:name/leaving/:of', component: () => import('./pages/LeavingPage.vue'), props: true, meta: { help: 'consumers#may-it-go' } },
    { path: '/consumers', component: () => import('./pages/ConsumersPage.vue'), meta: { help: 'consumers' } },
    { path: '/sunsets', component: () => import('./pages/SunsetsPage.vue'), meta: { help: 'notices' } },
    { path: '/overview', component: () => import('./pages/OverviewPage.vue'), meta: { help: 'reports' } },
    { path: '/consumers/:consumer', component: () => import('./pages/ConsumerPage.vue'), props: true, meta: { help: 'consumers' } },
    { path: '/consumers/:consumer/replay/:api', component: () => import('./pages/ReplayPage.vue'), props: true, meta: { help: 'reliance' } },
    { path: '/ask', component: () => import('./pages/AskPage.vue'), meta: { help: 'consumers#who-may-use-an-api' } },
    { path: '/requests', component: () => import('./pages/RequestsPage.vue'), meta: { help: 'consumers#who-may-use-an-api' } },
    { path: '/apis/:name/plans', component: () => import('./pages/PlansPage.vue'), props: true, meta: { help: 'consumers#who-may-use-an-api' } },
    { path: '/logs', component: () => import('./pages/LogsPage.vue'), meta: { help: 'consumers#logs' } },
    { path: '/:rest(.*)*', component: () => import('./pages/Lost.vue') },
  ],
})

router.beforeEach(async (to) => {
  if (to.meta.open) return
  const session = useSession()
  await session.find()
  if (!session.person && to.path !== '/sign-in') return { path: '/sign-in', query: { to: to.fullPath } }
})

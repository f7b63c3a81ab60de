import { createPinia } from 'pinia'
import { createApp } from 'vue'
import App from './App.vue'
import { tell, watchFaults } from './data/fault'
import { router } from './router'
import '@fontsource/literata/latin-600.css'
import '@fontsource/literata/latin-400-italic.css'
import '@fontsource/ibm-plex-sans/latin-400.css'
import '@fontsource/ibm-plex-sans/latin-600.css'
import '@fontsource/ibm-plex-mono/latin-400.css'
import '../../server/site/assets/tokens.css'
import './style.css'

const app = createApp(App)
app.config.errorHandler = tell
router.onError(tell)
watchFaults(window)
app.use(createPinia()).use(router).mount('#app')

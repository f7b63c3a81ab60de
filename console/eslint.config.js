// What the console's code is held to beside the compiler: mistakes, and not taste.
import vue from 'eslint-plugin-vue'
import { defineConfig } from 'eslint/config'
import ts from 'typescript-eslint'

export default defineConfig(
  { ignores: ['node_modules', 'eslint.config.js', 'src/data/types.ts'] }, // the types are made from the description of the interface
  ts.configs.recommendedTypeChecked,
  vue.configs['flat/essential'],
  {
    files: ['**/*.ts', '**/*.vue'],
    languageOptions: { parserOptions: { parser: ts.parser, projectService: true, extraFileExtensions: ['.vue'] } },
    rules: {
      'vue/multi-word-component-names': 'off', // pages are named as people call them
      '@typescript-eslint/no-unused-vars': ['error', { ignoreRestSiblings: true }],
      eqeqeq: 'error',
    },
  },
  { files: ['src/main.ts'], rules: { '@typescript-eslint/no-unsafe-argument': 'off' } }, // outside vue-tsc a .vue file has no type
)

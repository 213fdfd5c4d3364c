export { readDesignFile as default } from './read-file.js';

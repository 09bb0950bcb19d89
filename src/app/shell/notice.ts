import { message } from 'ant-design-vue';
import { ref } from 'vue';

/** The last notice, for screen readers; the floating messages are for the eye. */
export const lastNotice = ref('');

const say = (kind: 'info' | 'success' | 'error', seconds: number) => (text: string) => {
  lastNotice.value = text;
  void message[kind]({ content: text, duration: seconds, key: text });
};

/** Short notices: what was done, or what went wrong and what to do. */
export const tell = { info: say('info', 2), done: say('success', 2.5), error: say('error', 7) };

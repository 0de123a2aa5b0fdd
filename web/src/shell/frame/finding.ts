/** Whether the finder is open. */
import { ref } from "vue";

export const finding = ref(false);

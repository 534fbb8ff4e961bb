/** State of an image → class of its chip, and the word on it. */
export const imageStates = {
  whole: ['ok', 'Whole'],
  damaged: ['no', 'Damaged'],
  checking: ['', 'Being checked'],
  unchecked: ['ask', 'Unchecked'],
} as const

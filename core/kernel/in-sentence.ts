/** A name as it stands within a sentence: "Main processor" is "main processor", "Processor A" is "processor A". */
export function inSentence(name: string): string {
  // A word of capitals is a proper mark and stays: "LED board".
  return /^[A-Z][a-z]/.test(name) ? name.charAt(0).toLowerCase() + name.slice(1) : name
}

/** Words as they begin a sentence: "the line is silent" is "The line is silent". */
export function asSentence(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1)
}

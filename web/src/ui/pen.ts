/** A path, a transform or a view box written with its numbers in place: pen`M${x} ${y}h${2 * px}`. */
export const pen = (words: TemplateStringsArray, ...numbers: number[]): string =>
  String.raw({ raw: words }, ...numbers);

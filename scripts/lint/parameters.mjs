/**
 * Few parameters, as readers count them: the two coordinates of a place, a step or a size are one, and so are the three
 * channels of a colour (`x, y` · `dx, dy` · `x0, y0` · `width, height` · `r, g, b`). What a class is given to keep by its
 * constructor, each with a name of its own, is not counted.
 */
const COORDINATE = /^[a-z]?[xy]\d?$/;
const GROUPS = [
  ['width', 'height'],
  ['r', 'g', 'b'],
];

const nameOf = (parameter) => {
  const bare = parameter.type === 'AssignmentPattern' ? parameter.left : parameter;
  return bare.type === 'Identifier' ? bare.name : '';
};

/** How many there are. */
export function countOf(parameters) {
  const counted = parameters.filter(({ type }) => type !== 'TSParameterProperty');
  const names = counted.map(nameOf);
  const coordinates = names.filter((name) => COORDINATE.test(name)).length;
  const grouped = GROUPS.filter((group) => group.every((name) => names.includes(name)));
  const saved = grouped.reduce((sum, group) => sum + group.length - 1, 0);
  return counted.length - Math.floor(coordinates / 2) - saved;
}

export const parameters = {
  meta: {
    type: 'suggestion',
    schema: [{ type: 'integer', minimum: 0 }],
    messages: { many: '{{count}} parameters; at most {{most}} are read with ease.' },
  },
  create(context) {
    const [most = 5] = context.options;
    const check = (node) => {
      const count = countOf(node.params);
      if (count > most) context.report({ node, messageId: 'many', data: { count, most } });
    };
    return {
      FunctionDeclaration: check,
      FunctionExpression: check,
      ArrowFunctionExpression: check,
    };
  },
};

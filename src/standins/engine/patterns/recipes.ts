/** A dish: what goes in, what is done, and what may stand in for an ingredient. All for four. */
export interface Dish {
  name: string;
  called: RegExp;
  ingredients: [amount: string, what: string][];
  /** Steps; `{eggs}` names an ingredient, so that a step goes on with what stands in for it, or goes without. */
  steps: string[];
}

/** What takes the place of an ingredient that is not wanted; nothing where it is left out. */
export const substitutes: Record<string, [amount: string, what: string]> = {
  eggs: ["2", "ripe bananas, mashed"],
  milk: ["300 ml", "oat drink"],
  butter: ["3 tablespoons", "sunflower oil"],
  cream: ["100 ml", "coconut cream"],
  cheese: ["80 g", "toasted seeds"],
  flour: ["200 g", "ground oats"],
  sugar: ["2 tablespoons", "honey"],
  onions: ["2", "leeks"],
  fish: ["400 g", "white beans"],
  stock: ["1 litre", "salted water"],
};

export const dishes: readonly Dish[] = [
  {
    name: "Thin pancakes",
    called: /pancakes?|crepes?/i,
    ingredients: [
      ["200 g", "flour"],
      ["2", "eggs"],
      ["300 ml", "milk"],
      ["1 pinch", "salt"],
      ["1 tablespoon", "butter"],
    ],
    steps: [
      "Whisk {flour}, {eggs}, {milk} and {salt} to a smooth batter.",
      "Let it rest for 15 minutes.",
      "Melt a little {butter} in a pan.",
      "Bake each pancake for a minute a side.",
    ],
  },
  {
    name: "Tomato soup",
    called: /tomato soup|soup/i,
    ingredients: [
      ["800 g", "tomatoes"],
      ["2", "onions"],
      ["1 litre", "stock"],
      ["100 ml", "cream"],
      ["1 tablespoon", "oil"],
    ],
    steps: [
      "Soften chopped {onions} in {oil} for five minutes.",
      "Add {tomatoes} and {stock}, and simmer for 20 minutes.",
      "Blend it smooth.",
      "Stir in {cream}, and season.",
    ],
  },
  {
    name: "Lemon cake",
    called: /cake|bake something/i,
    ingredients: [
      ["200 g", "flour"],
      ["150 g", "sugar"],
      ["3", "eggs"],
      ["150 g", "butter"],
      ["1", "lemon"],
    ],
    steps: [
      "Beat {butter} and {sugar} until pale.",
      "Stir in {eggs} one by one, then {flour} and the zest of the {lemon}.",
      "Bake for 45 minutes at 170 degrees.",
      "Brush the warm cake with the juice of the {lemon}.",
    ],
  },
  {
    name: "Pasta with garlic and greens",
    called: /pasta|spaghetti|noodles/i,
    ingredients: [
      ["400 g", "pasta"],
      ["4 cloves", "garlic"],
      ["300 g", "spinach"],
      ["80 g", "cheese"],
      ["4 tablespoons", "oil"],
    ],
    steps: [
      "Cook {pasta} in salted water.",
      "Warm sliced {garlic} in {oil} until it is golden.",
      "Wilt {spinach} in the same pan.",
      "Toss all of it, and finish with grated {cheese}.",
    ],
  },
  {
    name: "Vegetable curry",
    called: /curry/i,
    ingredients: [
      ["2", "onions"],
      ["3 cloves", "garlic"],
      ["600 g", "mixed vegetables"],
      ["400 ml", "coconut milk"],
      ["2 tablespoons", "curry powder"],
      ["300 g", "rice"],
    ],
    steps: [
      "Fry {onions} and {garlic} gently.",
      "Stir in {curry powder} for a minute.",
      "Add {mixed vegetables} and {coconut milk}, and simmer for 20 minutes.",
      "Serve it with {rice}.",
    ],
  },
  {
    name: "Simple bread",
    called: /bread|loaf|rolls/i,
    ingredients: [
      ["500 g", "flour"],
      ["7 g", "dry yeast"],
      ["320 ml", "water"],
      ["2 teaspoons", "salt"],
    ],
    steps: [
      "Mix {flour}, {dry yeast}, {salt} and {water} to a dough.",
      "Knead it for ten minutes.",
      "Let it rise for an hour.",
      "Bake it for 35 minutes at 220 degrees.",
    ],
  },
  {
    name: "Potato salad",
    called: /salad|potato/i,
    ingredients: [
      ["1 kg", "potatoes"],
      ["1", "cucumber"],
      ["2", "eggs"],
      ["3 tablespoons", "vinegar"],
      ["4 tablespoons", "oil"],
    ],
    steps: [
      "Boil {potatoes} in their skins, and slice them warm.",
      "Dress them with {vinegar} and {oil}.",
      "Fold in sliced {cucumber} and boiled {eggs}.",
      "Let it stand for half an hour.",
    ],
  },
  {
    name: "Omelette with herbs",
    called: /omelet(?:te)?|eggs?\b/i,
    ingredients: [
      ["4", "eggs"],
      ["1 tablespoon", "butter"],
      ["1 handful", "herbs"],
      ["1 pinch", "salt"],
    ],
    steps: [
      "Beat {eggs} with {salt}.",
      "Melt {butter} in a hot pan, and pour them in.",
      "Scatter {herbs} over it, and fold it while it is still soft.",
    ],
  },
  {
    name: "Fish pie",
    called: /pie|fish/i,
    ingredients: [
      ["400 g", "fish"],
      ["800 g", "potatoes"],
      ["200 ml", "milk"],
      ["1 tablespoon", "butter"],
      ["100 g", "peas"],
    ],
    steps: [
      "Poach {fish} in {milk} for eight minutes.",
      "Boil and mash {potatoes} with {butter}.",
      "Layer {fish} and {peas} in a dish, and cover them with the mash.",
      "Bake it for 30 minutes at 200 degrees.",
    ],
  },
  {
    name: "Oat biscuits",
    called: /biscuits?|cookies?/i,
    ingredients: [
      ["200 g", "oats"],
      ["100 g", "butter"],
      ["80 g", "sugar"],
      ["1 pinch", "salt"],
    ],
    steps: [
      "Melt {butter} with {sugar}.",
      "Stir in {oats} and {salt}.",
      "Press small heaps on a tray, and bake them for 12 minutes at 180 degrees.",
    ],
  },
];

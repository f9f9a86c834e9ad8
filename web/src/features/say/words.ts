export const SAY_SHEET = {
  newCircuit: "New circuit",
  typeOneLine:
    "Type it in one line, or paste a list, one circuit a line. Press Enter on an empty line to go word by word.",
  shower92kw: "shower 9.2kW b40 rcbo 30mA 10 flat: riser 3.2 masonry, loft 2.4 under quilt",
  ctrlEnterAdds: "Ctrl Enter adds them",
  enterAdds: "Enter adds it",
} as const;

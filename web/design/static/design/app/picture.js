// The start picture as a file of its own: the drawn shapes with the look they have now.
document.addEventListener("click", (event) => {
  if (event.target.id !== "plot-svg") return;
  const drawn = document.querySelector("#plot svg"),
    copy = drawn.cloneNode(true);
  const from = [drawn, ...drawn.querySelectorAll("*")],
    to = [copy, ...copy.querySelectorAll("*")];
  from.forEach((shape, n) => {
    for (const name of [
      "fill",
      "fill-opacity",
      "opacity",
      "stroke",
      "stroke-width",
      "stroke-dasharray",
      "font-family",
      "font-size",
      "text-anchor",
    ])
      to[n].setAttribute(name, getComputedStyle(shape).getPropertyValue(name));
  });
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("width", "870");
  copy.setAttribute("height", "450");
  copy.querySelector("#plot-cursor").remove();
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([copy.outerHTML], { type: "image/svg+xml" }));
  link.download = "start.svg";
  link.click();
  URL.revokeObjectURL(link.href);
});

// A photograph is made small on the device before it is sent: a slow line carries a tenth of it.
const LARGE_BYTES = 600_000;
const SIDE = 2000;
const QUALITY = 0.85;

async function small(file) {
  const image = await createImageBitmap(file);
  const scale = Math.min(1, SIDE / Math.max(image.width, image.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(image.width * scale);
  canvas.height = Math.round(image.height * scale);
  canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
  image.close();
  const made = await new Promise((done) => canvas.toBlob(done, "image/jpeg", QUALITY));
  return made && made.size < file.size ? new File([made], "photo.jpg", { type: made.type }) : file;
}

document.addEventListener("change", async ({ target }) => {
  const [file] = target.matches?.("input[type=file][accept^=image]") ? target.files : [];
  if (!file || file.size < LARGE_BYTES) return;
  const buttons = target.form?.querySelectorAll("button") ?? [];
  buttons.forEach((button) => (button.disabled = true)); // what is sent must be what was made
  try {
    const carried = new DataTransfer();
    carried.items.add(await small(file));
    target.files = carried.files;
  } catch {
    // no picture this browser can draw: the server says what it is
  }
  buttons.forEach((button) => (button.disabled = false));
});

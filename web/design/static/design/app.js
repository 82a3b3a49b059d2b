// What every page does by itself; each part stands in a module of its own.

import "./app/preferences.js";
import "./app/asks.js";
import "./app/saving.js";
import "./app/faults.js";
import "./app/cursor.js";
import "./app/shortcuts.js";
import "./app/trouble.js";
import "./app/path.js";
import "./app/picture.js";
import "./app/leaving.js";
import "./app/offline.js";
import "./app/focus.js";
import "./app/folds.js";
import "./app/photos.js";
import "./app/rail.js";
import "./app/glossary.js";
import "./app/waits.js";

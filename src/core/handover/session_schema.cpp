#include "handover/session.h"

namespace ochron {

std::string_view sessionSchema() {
  return R"json({
 "$schema": "https://json-schema.org/draft/2020-12/schema",
 "title": "A session as Orthochron hands it over",
 "description": "Times are seconds from the moment at which all files in tracks/ begin, where nothing else is said.",
 "type": "object",
 "required": [
  "orthochron handover",
  "song",
  "rate",
  "length",
  "tempo",
  "midi",
  "tracks"
 ],
 "properties": {
  "$schema": {
   "type": "string"
  },
  "orthochron handover": {
   "type": "integer",
   "minimum": 1,
   "description": "the version of this form"
  },
  "song": {
   "type": "string"
  },
  "rate": {
   "type": "integer",
   "exclusiveMinimum": 0,
   "description": "Hz, of all files in tracks/"
  },
  "length": {
   "type": "number",
   "minimum": 0
  },
  "tempo": {
   "type": "object",
   "required": [
    "bar_1_at",
    "tempos",
    "meters",
    "ticks_a_quarter"
   ],
   "properties": {
    "bar_1_at": {
     "type": "number"
    },
    "tempos": {
     "type": "array",
     "minItems": 1,
     "items": {
      "type": "object",
      "required": [
       "ticks",
       "at",
       "bpm"
      ],
      "properties": {
       "ticks": {
        "type": "integer",
        "description": "from bar 1"
       },
       "at": {
        "type": "number"
       },
       "bpm": {
        "type": "number",
        "exclusiveMinimum": 0,
        "description": "quarter notes a minute"
       },
       "ramp": {
        "type": "boolean",
        "description": "glides to the next tempo"
       }
      },
      "additionalProperties": false
     }
    },
    "meters": {
     "type": "array",
     "minItems": 1,
     "items": {
      "type": "object",
      "required": [
       "bar",
       "meter"
      ],
      "properties": {
       "bar": {
        "type": "integer",
        "description": "the first bar of the song is 1"
       },
       "meter": {
        "type": "string",
        "pattern": "^[0-9]+/[0-9]+$"
       }
      },
      "additionalProperties": false
     }
    },
    "ticks_a_quarter": {
     "type": "integer",
     "exclusiveMinimum": 0
    }
   },
   "additionalProperties": false
  },
  "midi": {
   "type": "string",
   "description": "path of the MIDI file in the folder"
  },
  "markers": {
   "type": "array",
   "items": {
    "$ref": "#/$defs/marker"
   }
  },
  "tracks": {
   "type": "array",
   "items": {
    "$ref": "#/$defs/track"
   }
  },
  "mix_effects": {
   "type": "array",
   "items": {
    "$ref": "#/$defs/effect"
   },
   "description": "what the mix goes through; in no file"
  }
 },
 "additionalProperties": false,
 "$defs": {
  "marker": {
   "type": "object",
   "required": [
    "name",
    "at",
    "ticks"
   ],
   "properties": {
    "name": {
     "type": "string"
    },
    "at": {
     "type": "number"
    },
    "ticks": {
     "type": "integer"
    },
    "until": {
     "type": "number"
    },
    "length_ticks": {
     "type": "integer",
     "exclusiveMinimum": 0
    }
   },
   "additionalProperties": false,
   "description": "with until and length_ticks: a section"
  },
  "track": {
   "type": "object",
   "required": [
    "name",
    "file",
    "mic_set",
    "gain_db",
    "pan",
    "muted",
    "role"
   ],
   "properties": {
    "name": {
     "type": "string"
    },
    "file": {
     "type": "string",
     "description": "path in the folder"
    },
    "mic_set": {
     "type": "string"
    },
    "gain_db": {
     "type": "number",
     "description": "of the mixer; not in the file"
    },
    "pan": {
     "type": "number",
     "minimum": -100,
     "maximum": 100,
     "description": "percent, left to right; not in the file"
    },
    "muted": {
     "type": "boolean"
    },
    "role": {
     "type": "string",
     "description": "what the mic heard"
    },
    "effects": {
     "type": "array",
     "items": {
      "$ref": "#/$defs/effect"
     },
     "description": "in the file"
    },
    "layer_of": {
     "type": "string",
     "description": "the mic set on whose strokes this layer lies"
    },
    "clips": {
     "type": "array",
     "items": {
      "$ref": "#/$defs/clip"
     }
    }
   },
   "additionalProperties": false
  },
  "clip": {
   "type": "object",
   "required": [
    "start",
    "length",
    "take",
    "take_from",
    "take_to"
   ],
   "properties": {
    "start": {
     "type": "number"
    },
    "length": {
     "type": "number",
     "exclusiveMinimum": 0
    },
    "name": {
     "type": "string"
    },
    "take": {
     "type": "string"
    },
    "take_from": {
     "type": "number",
     "description": "seconds of the take"
    },
    "take_to": {
     "type": "number",
     "description": "seconds of the take"
    },
    "recording": {
     "type": "string"
    },
    "recording_from": {
     "type": "number",
     "description": "seconds of the recording"
    },
    "gain_db": {
     "type": "number"
    },
    "pan": {
     "type": "number"
    },
    "muted": {
     "type": "boolean"
    },
    "reversed": {
     "type": "boolean"
    },
    "stretched": {
     "type": "boolean",
     "description": "its speed is not the recording's throughout"
    },
    "fade_in": {
     "$ref": "#/$defs/fade"
    },
    "fade_out": {
     "$ref": "#/$defs/fade"
    },
    "seam": {
     "type": "object",
     "required": [
      "before",
      "after"
     ],
     "properties": {
      "before": {
       "type": "number",
       "minimum": 0
      },
      "after": {
       "type": "number",
       "minimum": 0
      }
     },
     "additionalProperties": false,
     "description": "the crossfade with the clip before: seconds before and after its start"
    }
   },
   "additionalProperties": false
  },
  "fade": {
   "type": "object",
   "required": [
    "seconds",
    "shape",
    "bend",
    "kind"
   ],
   "properties": {
    "seconds": {
     "type": "number",
     "exclusiveMinimum": 0
    },
    "shape": {
     "enum": [
      "line",
      "s-curve"
     ]
    },
    "bend": {
     "type": "number",
     "minimum": -1,
     "maximum": 1
    },
    "kind": {
     "enum": [
      "gain",
      "tape"
     ]
    }
   },
   "additionalProperties": false
  },
  "effect": {
   "type": "object",
   "required": [
    "name",
    "uri",
    "on",
    "values"
   ],
   "properties": {
    "name": {
     "type": "string"
    },
    "uri": {
     "type": "string"
    },
    "on": {
     "type": "boolean"
    },
    "values": {
     "type": "object",
     "additionalProperties": {
      "type": "number"
     },
     "description": "of controls that are not at the plug-in's own values"
    }
   },
   "additionalProperties": false
  }
 }
}
)json";
}

}  // namespace ochron

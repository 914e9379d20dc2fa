export const USAGE = `velvet-reel: motion between files, no server needed; library alone asks a running one

  Reads BVH, GLB, glTF, ASF/AMC pairs, C3D, TRC, motion JSON and tables of joint places (CSV); writes .bvh .glb .csv .json .usda .vrm .vrma,
  and .zip with a BVH a clip.
  Any FILE: [--skeleton FILE.asf] for AMC, [--choose N] where a file holds several skeletons,
  [--columns FILE.json] [--fps N] for a table whose headings or times do not tell.

  velvet-reel inspect FILE [--json]
      joints, frames, rate, height, axes, units and rest pose
  velvet-reel convert IN OUT [--fps N] [--no-mesh] [--keys MM] [--json]
      to the format that OUT's ending names; --keys leaves out keys within so many millimetres (GLB)
  velvet-reel map FILE [--json]
      which joint is which part of the body
  velvet-reel retarget MOTION --to CHARACTER --out FILE
      [--map FILE.json] [--no-plants] [--travel leg|path|speed|none] [--hands free|together|head|hips] [--no-clear] [--limits]
      [--rest rest|t-pose|frame:N] [--fitting FILE.json] [--fps N] [--no-mesh] [--report FILE.json] [--json]
      --fitting takes settings and edits as the Fitting place has them (GET /cast/CAST/fittings/ITEM)
      puts a motion on another character; a BVH's skeleton or a GLB's skin both serve as CHARACTER
  velvet-reel tune FILE --out FILE [--despike] [--fill-gaps] [--smooth HZ] [--trim FIRST:LAST] [--energy X] [--arms DEG]
      [--stance X] [--stride X] [--lean DEG] [--speed X] [--reverse] [--hold FRAMES] [--place X,Z,DEG] [--floor]
      [--in-place | --root-joint] [--steps FILE.json] [--fps N] [--json]
      changes a motion on its own skeleton, plants kept; applied in this order, or as FILE.json lists
  velvet-reel mirror FILE --out FILE [--mode exchange|leftToRight|rightToLeft] [--plane start|world] [--json]
  velvet-reel cycle FILE [--out FILE] [--start N --end N] [--json]
      finds where a motion loops; with --out writes the best (or the named) stretch, closed
  velvet-reel join A B --out FILE [--join crossfade|decay|bridge|cut] [--frames N] [--meet hips|footL|footR|world] [--level]
      [--a-to FRAME] [--b-from FRAME] [--find] [--report FILE.json] [--json]
      A, then B on A's skeleton, where A ends and faces; --find seeks the frames at which they are most alike, --level goes on
      at the height reached; with bridge, --frames lie between them and are computed
  velvet-reel layer BASE OVER --out FILE [--mode replace|add] [--parts head,armL,...] [--at FRAME] [--onset N]
      [--report FILE.json] [--json]
      OVER on top of BASE, for some of the body; its strength comes in and goes over N frames
  velvet-reel reel REEL.json --out FILE [--member N] [--report FILE.json] [--json]
      what a member of a reel does; items and characters are paths beside the file
  velvet-reel cutout inspect FIGURE.svg|zip|json|FOLDER [--json]
      parts of a layered drawing: what each hangs on, pivot, points, drawing order, labels, slot and how sure that is
  velvet-reel cutout drive MOTION --to FIGURE --out OUT [--view front|quarter|side|follow] [--foreshorten X] [--no-plants]
      [--report FILE.json] [--json]
      a body's motion on a paper figure; OUT .json is the scene, .lottie.json Lottie, .sprites.json a sheet of all frames
      (the PNG beside it), .svg plays by itself, .png .apng .gif
  velvet-reel cutout swap SCENE.json|LOTTIE.json --to FIGURE --out OUT [--report FILE.json] [--json]
      finished animation on another figure: turns and timing kept, put together anew from what stands
  velvet-reel cutout merge FIGURE FROM --out FILE.json [--report FILE.json] [--json]
      FROM's drawings added to the same parts; equal pictures are shared, labels that are taken get a number
  velvet-reel cutout render SCENE --out FILE.(svg|png|apng|gif|json|lottie.json|sprites.json) [--at FRAME] [--height PX]
  velvet-reel keys FILE --out FILE.glb [--tolerance MM] [--curves smooth|straight] [--report FILE.json] [--json]
      motions as keys that can be edited, with curves or straight ways between; says how many, and how far off any point is
  velvet-reel film A [B...] --out FILE.(zip|gif|apng|png) [--view front|side] [--height PX] [--fps N] [--json]
      a review film in clay: motions side by side at the same moment and scale; .zip holds a PNG a frame
  velvet-reel capture-stage [MOTION...] [--port 4720] [--fps 60|120] [--performers N] [--jitter MS] [--loss %] [--reorder %]
      [--dropout %] [--restart SECONDS] [--seed N]
      a stand-in for a capture stage: streams motions, or a body trying its joints, over WebSocket, as badly as is asked for
  velvet-reel supplier [--port 4730] [--takes N] [--credits N] [--key KEY] [--data FILE.json] [--faults %] [--slow MS] [--seed N]
      a stand-in for a supplier of motion: a catalogue with prices, an account, files, new issues; faults as asked for; its
      /openapi.json says what it answers
  velvet-reel identity [--port 4740] [--key SECRET]
      a stand-in for a studio’s provider of accounts (OpenID Connect), to try signing in with it on one machine
  velvet-reel solve MARKERS.c3d|trc --out FILE [--to CHARACTER] [--keep-body BODY.json] [--body BODY.json]
      [--report FILE.json] [--json]
      a skeleton and its motion from the places of markers, labelled or not; with --to, put on a character. --keep-body writes
      down how the markers sit on the body, and --body solves another take of the same person on it: the same skeleton
  velvet-reel rig MESH --out FILE.glb [--marks MARKS.json] [--tie PART=JOINT,…] [--no-fingers]
      [--report FILE.json] [--json]
      a skeleton and skin weights for a mesh without (GLB, glTF, OBJ, STL); MARKS.json: slot to [x, y, z] in the mesh's own
      units, any of hips, head, forearmL/R, handL/R, shinL/R, footL/R; what is not marked is read from the shape;
      --tie moves a loose part (a hat, a tool), by its number in the report, stiffly with a joint;
      hands whose shape shows a thumb and three or four fingers get them, unless --no-fingers says otherwise
  velvet-reel analyse FILE [--json]
      facts, plants, suggested words and props
  velvet-reel compare A B [--json]
      differences joint by joint, joints paired by name
  velvet-reel pairing FILE [--json]
      left and right partners, and what has none
  velvet-reel fit MOTION... --to CHARACTER [--json]
      how well motions fit a character, 0 to 100, best first, with the reasons; without a solve
  velvet-reel codec pack FILE OUT [--bound MM] [--json]
  velvet-reel codec unpack PACKED OUT --rig FILE [--json]
      packed motion, and back onto the skeleton of FILE

  velvet-reel library find WORDS... [--limit N] | get ITEM | add FILE... [--skeleton FILE.asf] | tag ITEM TAG... | jobs
  velvet-reel library export ITEM [--format glb|bvh|csv|json] [--to CAST] [--fps N] [--no-mesh] [--keys MM] [--out FILE]
      [--url http://127.0.0.1:3000] [--token KEY] [--json]; VELVET_URL and VELVET_TOKEN stand in for both
      the shared library; WORDS as in its search field: walk -limp kind:clip longer:4

Exit code 0: done. 1: the input was refused, with one line on stderr. 2: wrong usage.
`;

/** Wrong usage: exit code 2. */
export class UsageError extends Error {
  override readonly name = 'UsageError';
}

/** What a command could not do though it was called right; its message is for whoever called it. */
export class CommandError extends Error {
  override readonly name: string = 'CommandError';
}

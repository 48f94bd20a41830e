#include "app/help/value_words.h"

#include "app/look/language.h"

#include <algorithm>
#include <span>

namespace yarngap::app {

namespace {

#define SAY(text) text // collected like what is in tr()

struct Entry {
    const char* object;
    const char* name;
    const char* what;
    const char* when;
    const char* picture = "";
    const char* less = SAY("little");
    const char* more = SAY("much");
};

constexpr Entry ofFootage[]{
    {"footageRateField", SAY("Frame rate"), SAY("The rate at which the frames were shot."),
     SAY("Change it when the file states another rate, as many cameras do when they shoot at high speed.")},
    {"aspectField", SAY("Pixel aspect"), SAY("Width of a pixel over its height."),
     SAY("Change it when circles look like ovals.")},
    {"fieldsBox", SAY("Fields"),
     SAY("How interlaced frames are treated: left as coded, two fields joined into one frame, or each field "
         "made into a frame."),
     SAY("Choose twice the rate for slow motion: each field is a moment of its own.")},
    {"orderBox", SAY("Field order"), SAY("Which field of a frame was taken first."),
     SAY("Change it when motion jumps back and forth.")},
    {"turnBox", SAY("Turn"), SAY("Turns the picture before anything else is done."),
     SAY("Change it when the shot lies on its side.")},
    {"rangeBox", SAY("Range"),
     SAY("Whether black and white use the full range of values, or leave headroom."),
     SAY("Change it when blacks look grey, or crushed.")},
    {"matrixBox", SAY("Matrix"), SAY("How brightness and colour are encoded in the file."),
     SAY("Change it when greens and reds look slightly off: the file may be labelled wrongly.")},
};

constexpr Entry ofSource[]{
    {"inField", SAY("In"), SAY("The first source frame that is used."),
     SAY("Leave some frames before a ramp, so that it has something to begin with.")},
    {"outField", SAY("Out"), SAY("The last source frame that is used."),
     SAY("The result never ends before it, at any speed.")},
    {"lookAtBox", SAY("Look at"), SAY("What must stand still for a frame to count as a repeat."),
     SAY("Choose “what moves most” for figures on twos over a moving background.")},
    {"certaintySlider", SAY("How sure it must be"),
     SAY("How sure the search must be of a finding before the buttons below act on it."),
     SAY("Lower it when repeats are missed; raise it when good frames are listed.")},
    {"keepLengthBox", SAY("Keep the length of the result"),
     SAY("When frames are taken out or put in, the speed changes instead of the length."),
     SAY("Turn it on when the shot fills a fixed gap in an edit.")},
    {"sheetPhasesField", SAY("Place between its neighbours"),
     SAY("Where a rebuilt frame lies between the kept frames before and after it, in percent."),
     SAY("Change it when motion around it is uneven.")},
};

constexpr Entry ofTiming[]{
    {"speedField", SAY("Speed"),
     SAY("Source seconds that pass in each second of the result: 50 % is half as fast."),
     SAY("Type a percentage, a fraction such as 1/3, or 0 to stand still. The other fields follow.")},
    {"factorField", SAY("Factor"), SAY("How many times slower the result is."),
     SAY("Use it when you think in factors, not in percent.")},
    {"framesField", SAY("Frames"), SAY("How many frames the result has."),
     SAY("Type the length that the edit leaves; the speed follows.")},
    {"secondsField", SAY("Seconds"), SAY("How long the result runs."),
     SAY("Type the time that it must fill; the speed follows.")},
    {"timecodeField", SAY("Timecode"), SAY("How long the result runs, as timecode at its own rate."),
     SAY("Type the length that the edit leaves; the speed follows.")},
    {"rateBox", SAY("Output frame rate"), SAY("Frames in each second of the result."),
     SAY("Set it to the delivery rate. The speed stays; only the number of frames for each second changes.")},
    {"presetName", SAY("Name of the preset"), SAY("The name under which this timing is kept."),
     SAY("Use a name that says what the timing is for.")},
    {"laneSpeedField", SAY("Speed of a stretch"),
     SAY("The speed of the stretch or key in the thread chart that was double-clicked."),
     SAY("Type it where dragging is too coarse.")},
};

constexpr Entry ofFlow[]{
    {"qualityBox", SAY("Quality on screen"),
     SAY("How carefully motion is estimated for the pictures in this window."),
     SAY("Draft while you try things, standard for most shots, thorough where outlines tear.")},
    {"finalQualityBox", SAY("Quality in the render"),
     SAY("The same for the render. It is never lower than on screen."),
     SAY("Thorough takes about four times as long as standard, and tears less along outlines."),
     "quality.png", SAY("draft"), SAY("thorough")},
    {"stiffnessField", SAY("Stiffness"),
     SAY("How alike neighbouring pixels move: 0 each on its own, 100 all with the camera."),
     SAY("Lower it for people, animals and cloth. Raise it where still ground swims beside a subject."),
     "stiffness.png"},
    {"trustLimitField", SAY("Trust limit"),
     SAY("Pixels whose motion is trusted less than this come from the stand-in."),
     SAY("Leave it at 0 until something tears, then raise it in steps of 5."), "trust_limit.png"},
    {"standInBox", SAY("Stand-in"),
     SAY("Where pixels come from that are below the trust limit: a blend, a repeat, or one side alone."),
     SAY("Choose a repeat where a blend would show ghosts.")},
    {"analyseOnBox", SAY("Analyse on"),
     SAY("What the estimate of motion looks at: the picture, its contrast lifted, or its edges."),
     SAY("Lift contrast for dark shots and faint texture; take edges where light flickers.")},
    {"inFrontBox", SAY("In front"), SAY("Which of two motions covers the other where they cross."),
     SAY("Choose faster for a subject before a calm ground, slower for posts that someone runs behind."),
     "in_front.png", SAY("slower"), SAY("faster")},
    {"sidesBox", SAY("Pixels from"), SAY("Which source frames pixels are taken from: both, or one only."),
     SAY("Take one side when the other frame is damaged, or shows what must not be seen.")},
    {"shutterField", SAY("Motion blur"),
     SAY("A shutter angle: 180° blurs over half of each output frame, along the motion."),
     SAY("Set it for fast shots that strobe. It makes many pictures for one, so it is slow."),
     "motion_blur.png"},
    {"evenTextureBox", SAY("Even texture"),
     SAY("Originals go through synthesis as well, so no frame of the result is a source frame."),
     SAY("Turn it on when sharpness and grain pulse in a slow shot.")},
    {"bridgeRepeatsBox", SAY("Pass over repeats"),
     SAY("Flow goes on evenly past frames that only repeat the one before."),
     SAY("Turn it off where repeated frames are holds that are meant.")},
    {"bendPathsBox", SAY("Bend paths"),
     SAY("Things that turn or change speed follow a curve instead of a straight line. The gaps beside tell "
         "the curve."),
     SAY("Turn it off where made frames overshoot.")},
    {"keepGrainBox", SAY("Keep grain"), SAY("Restores the grain that is lost when two pictures are mixed."),
     SAY("Turn it on when made frames look cleaner than their neighbours.")},
    {"linearLightBox", SAY("Mix as light"), SAY("Pictures are mixed in linear light, as in a camera."),
     SAY("Turn it on for lamps and highlights that go dull in between.")},
    {"featherField", SAY("Feather"), SAY("Pixels over which the edge of the matte goes soft."),
     SAY("Raise it for hair and blurred edges; keep it low for hard ones.")},
    {"matteOnTop", SAY("Subject on top"), SAY("The subject of the matte covers what lies behind it."),
     SAY("Turn it off where the subject passes behind something.")},
};

constexpr Entry ofMend[]{
    {"doubtLimitSlider", SAY("Limit of doubt"), SAY("Gaps with more doubt than this are listed."),
     SAY("Lower it to look at more gaps, raise it when the list is longer than your time.")},
    {"mendFirst", SAY("First gap"), SAY("The first gap that the mend is for, by its source frame before."),
     SAY("Take in the gaps beside where the fault begins earlier.")},
    {"mendLast", SAY("Last gap"), SAY("The last gap that the mend is for, by its source frame after."),
     SAY("Take in the gaps beside where the fault goes on.")},
    {"keepLengthOfMend", SAY("Keep the length"),
     SAY("Running through or passing quickly leaves the length of the result as it is."),
     SAY("Turn it off when the result may get shorter.")},
    {"patchShows", SAY("What the patch shows"),
     SAY("The version of the frame that is seen inside the outline."),
     SAY("Take a source frame where every estimate fails.")},
    {"patchFeather", SAY("Feather"),
     SAY("Pixels over which the patch goes soft on each side of its outline."),
     SAY("Raise it until its edge cannot be seen.")},
    {"patchStrength", SAY("Strength"), SAY("How much of the patch is seen: 100 % all of it."),
     SAY("Lower it to mix the patch with what lies under it.")},
    {"patchBlur", SAY("Blur"), SAY("Blurs what the patch shows."),
     SAY("Match it to the motion blur around the patch.")},
    {"patchFade", SAY("Fade"), SAY("Source frames over which the patch comes and goes at both ends."),
     SAY("Raise it when the patch is seen to jump in.")},
    {"patchOnOriginals", SAY("On originals too"),
     SAY("Source frames in the result are patched as well as made ones."),
     SAY("Turn it on to hide something that was filmed.")},
};

constexpr Entry ofFrame[]{
    {"frameSizes", SAY("Size"), SAY("The frame size of the result."),
     SAY("Choose the size of the delivery; the picture is moved and read once, whatever else is set.")},
    {"frameSize", SAY("Pixels"), SAY("Width and height of the result."),
     SAY("Type a size that is not in the list, such as 1998x1080.")},
    {"frameAspect", SAY("Pixel aspect"), SAY("Width of a pixel of the result over its height."),
     SAY("Change it for standard definition, such as 12/11.")},
    {"frameFit", SAY("Fit"),
     SAY("How the picture fits the frame: whole with bars, filling it, or placed by hand."),
     SAY("Fill when bars are not wanted; fit when nothing may be cut off.")},
    {"frameAround", SAY("Bars"), SAY("The colour around the picture."), SAY("Black for most deliveries.")},
    {"placeScale", SAY("Scale"), SAY("Size of the picture in the frame; 100 % is the fit chosen above."),
     SAY("Raise it to go closer.")},
    {"placeX", SAY("Across"), SAY("Shift of the picture to the right, in pixels of the result."),
     SAY("Change it to reframe the subject.")},
    {"placeY", SAY("Down"), SAY("Shift of the picture downwards, in pixels of the result."),
     SAY("Change it to reframe the subject.")},
    {"placeEase", SAY("Ease"), SAY("Moves between keys begin and end gently."),
     SAY("Turn it off for an even move.")},
    {"safeAreas", SAY("Safe areas"), SAY("Lines at 93 and 90 % of the frame, for action and titles."),
     SAY("They are never rendered.")},
    {"thirds", SAY("Thirds"), SAY("Lines at thirds of the frame."), SAY("They are never rendered.")},
    {"centreMark", SAY("Centre"), SAY("A cross in the middle of the frame."), SAY("It is never rendered.")},
    {"holdOn", SAY("Hold still"), SAY("The chosen point stays in its place while all else moves."),
     SAY("Turn it off to see the shot as it was filmed.")},
    {"holdTurns", SAY("Second point"),
     SAY("A second point shows how the object turns and grows; that is held as well."),
     SAY("Use it for things that tilt or come nearer.")},
    {"holdAt", SAY("Where"), SAY("The place where the point is held."),
     SAY("Choose the middle, or a place of its own.")},
    {"holdShare", SAY("How much"), SAY("Share of the point's motion that is taken away."),
     SAY("Lower it for a soft hold that keeps some of the hand.")},
    {"holdX", SAY("Across"), SAY("Place to hold at, in pixels from the left."),
     SAY("Type it to match another shot.")},
    {"holdY", SAY("Down"), SAY("Place to hold at, in pixels from the top."),
     SAY("Type it to match another shot.")},
    {"calmBy", SAY("Camera"),
     SAY("How the camera's own motion is calmed: not, smoothed, or made to stand still."),
     SAY("Smooth keeps pans; still is for a camera that should have been on a tripod.")},
    {"calmSeconds", SAY("Over"),
     SAY("Shakes that last this long or less are taken away, in seconds of the source."),
     SAY("Raise it for slow sway, lower it when pans feel late.")},
    {"edgesWhere", SAY("Where"), SAY("Whether bare edges are hidden over the whole shot or over a stretch."),
     SAY("Take a stretch when only a few frames need it.")},
    {"edgesScale", SAY("Scale"), SAY("How far the picture is enlarged to hide bare edges."),
     SAY("Press the button to find the smallest value that hides them all.")},
    {"edgesFade", SAY("Comes in over"),
     SAY("Source frames over which it scales in and out around the stretch."),
     SAY("Raise it when the zoom is seen.")},
};

constexpr Entry ofLook[]{
    {"toneBlack", SAY("Black"), SAY("The value that becomes black."),
     SAY("Raise it until the darkest places just touch black.")},
    {"toneWhite", SAY("White"), SAY("The value that becomes white."),
     SAY("Lower it until the lightest places just touch white.")},
    {"toneGamma", SAY("Gamma"), SAY("Brightness of the middle; black and white stay."),
     SAY("Raise it to see more in the shadows.")},
    {"toneSaturation", SAY("Saturation"), SAY("Strength of colour: 0 grey, 1 as filmed."),
     SAY("Match it to the shots beside.")},
    {"soften", SAY("Soften"), SAY("Strength of a soft blur over the frame."),
     SAY("Use a little to hide what compression left.")},
    {"softenRadius", SAY("Radius"), SAY("Reach of the softening, in pixels."),
     SAY("Keep it near the size of what is to go.")},
    {"sharpen", SAY("Sharpen"), SAY("Strength of sharpening; brightness only."),
     SAY("Use a little after scaling in.")},
    {"sharpenRadius", SAY("Radius"), SAY("Reach of the sharpening, in pixels."),
     SAY("Near 1 for fine detail; more for soft lenses.")},
    {"grainKind", SAY("Grain"),
     SAY("Whether grain is added: none, over all, or so that made frames match the shot."),
     SAY("Match the shot when made frames look cleaner than originals.")},
    {"grainStrength", SAY("Strength"), SAY("Strength of the grain."),
     SAY("Judge it at 100 % zoom while playing.")},
    {"grainSize", SAY("Size"), SAY("Size of the grain, in pixels."),
     SAY("Raise it for film that was scanned large.")},
    {"smears", SAY("Smears"), SAY("The smears of this shot; the settings below are for the chosen one."),
     SAY("Choose another to change it.")},
    {"smearPeak", SAY("Strongest"),
     SAY("Where the smear is strongest: at its start, in its middle or at its end."),
     SAY("At the end before a cut, at the start after one.")},
    {"smearFrames", SAY("Over"), SAY("Source frames that the smear takes."),
     SAY("Raise it for a longer sweep.")},
    {"smearLength", SAY("Blur"), SAY("Length of the blur at its strongest, in percent of the width."),
     SAY("Raise it until the cut is felt and not seen.")},
    {"smearDirection", SAY("Direction"), SAY("Where the blur goes: 0° right, 90° down."),
     SAY("It starts as the camera's direction; turn it to match the other shot.")},
    {"smearBulge", SAY("Bulge"), SAY("How far the picture bulges while it is smeared."),
     SAY("A little makes two shots flow into each other.")},
};

constexpr Entry ofRender[]{
    {"scopeBox", SAY("What is rendered"),
     SAY("This shot, all shots each in a file, a reel of all, the loop alone, or the shots of an edit."),
     SAY("A reel joins the shots in the order of the list; nothing is made across its cuts.")},
    {"handlesBox", SAY("Handles"), SAY("Extra frames before and after each shot, where its media has them."),
     SAY("Use what the edit asks for, often 12 or 24.")},
    {"whereBox", SAY("Where"), SAY("Whether this machine renders, or a farm of several machines."),
     SAY("All machines of a farm must see the media and the result under the same paths.")},
    {"undecodableBox", SAY("Frames that cannot be decoded"),
     SAY("The frame before is held in their place, or nothing is written."),
     SAY("Hold them for a check, stop for a delivery.")},
    {"targetField", SAY("File"),
     SAY("Where the result goes. {shot}, {speed}, {version} and others are filled in."),
     SAY("Use {version}, and nothing is ever written over.")},
    {"formatBox", SAY("Format"), SAY("Codec and container of the result."),
     SAY("Lossless for more work on it, a delivery's own for the end.")},
    {"depthBox", SAY("Depth"), SAY("Bits in each sample of the result."),
     SAY("As the source, unless the delivery says otherwise.")},
    {"chromaBox", SAY("Chroma"),
     SAY("How much of the colour is kept: 4:4:4 all, 4:2:2 half, 4:2:0 a quarter."),
     SAY("As the source, unless the delivery says otherwise.")},
    {"qualitySlider", SAY("Quality"), SAY("Left makes files smaller, right makes pictures better."),
     SAY("Far right for masters.")},
    {"compressionBox", SAY("Compression"), SAY("How OpenEXR packs its pixels."),
     SAY("ZIP and PIZ lose nothing; DWAA is small and loses a little.")},
    {"scanBox", SAY("Scan"),
     SAY("Whole frames, fields that are each made at their own moment, or film frames in a pulldown."),
     SAY("Choose what the delivery asks for.")},
    {"soundBox", SAY("Sound"),
     SAY("What becomes of the shot's sound: stretched at its own pitch, like tape, or none."),
     SAY("Its own pitch for speech, like tape for effect.")},
    {"soundFormatBox", SAY("Sound format"), SAY("How sound is coded."), SAY("PCM loses nothing.")},
    {"timecodeBox", SAY("Timecode"),
     SAY("Whether the result begins at the source's timecode, at one of its own, or has none."),
     SAY("The source's, when it goes back into the edit.")},
    {"startTimecodeField", SAY("Start"), SAY("Timecode of the first frame of the result."),
     SAY("Type it where the delivery names one.")},
    {"reelField", SAY("Reel"), SAY("The reel's name in the result."),
     SAY("Keep the source's, so that the edit finds it.")},
    {"alsoBox", SAY("Also write"), SAY("A second file in another format, of the same frames."),
     SAY("Use it for a proxy; frames are made once.")},
};

#undef SAY

} // namespace

std::optional<ValueWords> wordsForValue(const QString& objectName) {
    for (const std::span<const Entry> all :
         {std::span<const Entry>(ofFootage), std::span<const Entry>(ofSource),
          std::span<const Entry>(ofTiming), std::span<const Entry>(ofFlow), std::span<const Entry>(ofMend),
          std::span<const Entry>(ofFrame), std::span<const Entry>(ofLook),
          std::span<const Entry>(ofRender)}) {
        const auto found =
            std::ranges::find(all, objectName, [](const Entry& e) { return QLatin1String(e.object); });
        if (found == all.end()) continue;
        return ValueWords{translated(found->name), translated(found->what),
                          translated(found->when), QString::fromLatin1(found->picture),
                          translated(found->less), translated(found->more)};
    }
    return std::nullopt;
}

} // namespace yarngap::app

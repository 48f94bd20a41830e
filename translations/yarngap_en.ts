<?xml version="1.0" encoding="utf-8"?>
<!DOCTYPE TS>
<TS version="2.1" language="en">
<context>
    <name>QObject</name>
    <message numerus="yes">
        <source>%n frames: %1. About %2.</source>
        <translation>
            <numerusform>%n frame: %1. About %2.</numerusform>
            <numerusform>%n frames: %1. About %2.</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1 shots, %n frames: %2. About %3.</source>
        <translation>
            <numerusform>%1 shots, %n frame: %2. About %3.</numerusform>
            <numerusform>%1 shots, %n frames: %2. About %3.</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n pictures of that name exist and will be replaced.</source>
        <translation>
            <numerusform>%n picture of that name exists and will be replaced.</numerusform>
            <numerusform>%n pictures of that name exist and will be replaced.</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n of these files exist and will be replaced.</source>
        <translation>
            <numerusform>This file exists and will be replaced.</numerusform>
            <numerusform>%n of these files exist and will be replaced.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::CleanStep</name>
    <message numerus="yes">
        <source>%n repeats</source>
        <translation>
            <numerusform>%n repeat</numerusform>
            <numerusform>%n repeats</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n faults</source>
        <translation>
            <numerusform>%n fault</numerusform>
            <numerusform>%n faults</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1 → %2 source frames; the result has %n frames.</source>
        <translation>
            <numerusform>%1 → %2 source frames; the result has %n frame.</numerusform>
            <numerusform>%1 → %2 source frames; the result has %n frames.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::CurveField</name>
    <message numerus="yes">
        <source>%n points</source>
        <translation>
            <numerusform>%n point</numerusform>
            <numerusform>%n points</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::Document</name>
    <message numerus="yes">
        <source>add %n shots</source>
        <translation>
            <numerusform>add %n shot</numerusform>
            <numerusform>add %n shots</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n shots of %1 are open.</source>
        <translation>
            <numerusform>%n shot of %1 is open.</numerusform>
            <numerusform>%n shots of %1 are open.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::EdgesRow</name>
    <message numerus="yes">
        <source>%n frames cannot be hidden by scaling, first output %1: the picture is moved too far there.</source>
        <translation>
            <numerusform>%n frame cannot be hidden by scaling, output %1: the picture is moved too far there.</numerusform>
            <numerusform>%n frames cannot be hidden by scaling, first output %1: the picture is moved too far there.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::FarmWatch</name>
    <message numerus="yes">
        <source>%n parts failed on the farm.</source>
        <translation>
            <numerusform>%n part failed on the farm.</numerusform>
            <numerusform>%n parts failed on the farm.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::FrameRow</name>
    <message numerus="yes">
        <source>%n keys</source>
        <translation>
            <numerusform>%n key</numerusform>
            <numerusform>%n keys</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::GuideSheet</name>
    <message numerus="yes">
        <source>Pairs %1 contradict others and are left out; those fit the pictures better.</source>
        <translation>
            <numerusform>Pair %1 contradicts another and is left out; that one fits the pictures better.</numerusform>
            <numerusform>Pairs %1 contradict others and are left out; those fit the pictures better.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::HoldRow</name>
    <message numerus="yes">
        <source>%n frames are doubtful.</source>
        <translation>
            <numerusform>%n frame is doubtful.</numerusform>
            <numerusform>%n frames are doubtful.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::InBetweensStep</name>
    <message numerus="yes">
        <source>, %n stretches otherwise</source>
        <translation>
            <numerusform>, %n stretch otherwise</numerusform>
            <numerusform>, %n stretches otherwise</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::MainWindow</name>
    <message numerus="yes">
        <source>%n gaps mended</source>
        <translation>
            <numerusform>%n gap mended</numerusform>
            <numerusform>%n gaps mended</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Cures were tried on %n gaps; none is better than the frames as they are.</source>
        <translation>
            <numerusform>Cures were tried on %n gap; none is better than the frames as they are.</numerusform>
            <numerusform>Cures were tried on %n gaps; none is better than the frames as they are.</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1 of %n gaps are mended; nothing tried is better than the others as they are.</source>
        <translation>
            <numerusform>%1 of %n gap is mended; nothing tried is better.</numerusform>
            <numerusform>%1 of %n gaps are mended; nothing tried is better than the others as they are.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::MatteSettings</name>
    <message numerus="yes">
        <source>%1 points, keys at source frames %2</source>
        <translation>
            <numerusform>%1 points, key at source frame %2</numerusform>
            <numerusform>%1 points, keys at source frames %2</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::PatchSettings</name>
    <message numerus="yes">
        <source>drawn at sources %1</source>
        <translation>
            <numerusform>drawn at source %1</numerusform>
            <numerusform>drawn at sources %1</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::PhaseField</name>
    <message numerus="yes">
        <source>The %n frames put in lie at</source>
        <translation>
            <numerusform>The frame put in lies at</numerusform>
            <numerusform>The %n frames put in lie at</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::RenderController</name>
    <message numerus="yes">
        <source>%n frames written to %1.</source>
        <translation>
            <numerusform>%n frame written to %1.</numerusform>
            <numerusform>%n frames written to %1.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::RenderStep</name>
    <message numerus="yes">
        <source>%n shots go back to the edit, with the list that replaces them: %1</source>
        <translation>
            <numerusform>%n shot goes back to the edit, with the list that replaces it: %1</numerusform>
            <numerusform>%n shots go back to the edit, with the list that replaces them: %1</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Handles of %n frames</source>
        <translation>
            <numerusform>Handles of %n frame</numerusform>
            <numerusform>Handles of %n frames</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::SmearRow</name>
    <message numerus="yes">
        <source>at %n places</source>
        <translation>
            <numerusform>at one place</numerusform>
            <numerusform>at %n places</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::ThreadChart</name>
    <message numerus="yes">
        <source>Take %n keys out</source>
        <translation>
            <numerusform>Take the key out</numerusform>
            <numerusform>Take %n keys out</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::TimingStep</name>
    <message numerus="yes">
        <source>%1 → %n frames at %2</source>
        <translation>
            <numerusform>%1 → %n frame at %2</numerusform>
            <numerusform>%1 → %n frames at %2</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1 source → %n output frames</source>
        <translation>
            <numerusform>%1 source → %n output frame</numerusform>
            <numerusform>%1 source → %n output frames</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n repeats</source>
        <translation>
            <numerusform>%n repeat</numerusform>
            <numerusform>%n repeats</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::ToneRow</name>
    <message numerus="yes">
        <source>%n keys</source>
        <translation>
            <numerusform>%n key</numerusform>
            <numerusform>%n keys</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::TransportBar</name>
    <message numerus="yes">
        <source>%1 of %2 fps · %n frames not shown in time</source>
        <translation>
            <numerusform>%1 of %2 fps · %n frame not shown in time</numerusform>
            <numerusform>%1 of %2 fps · %n frames not shown in time</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yarngap::app::TrimStep</name>
    <message numerus="yes">
        <source>%1 of %n source frames</source>
        <translation>
            <numerusform>%1 of %n source frame</numerusform>
            <numerusform>%1 of %n source frames</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1 to %2, %n frames</source>
        <translation>
            <numerusform>%1 to %2, %n frame</numerusform>
            <numerusform>%1 to %2, %n frames</numerusform>
        </translation>
    </message>
</context>
</TS>

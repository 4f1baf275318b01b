<?xml version="1.0" encoding="utf-8"?>
<!DOCTYPE TS>
<TS version="2.1">
<context>
    <name>Mervid</name>
    <message>
        <source>Look and go</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>By ear</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Whole grid</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Beats and bars</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pins</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The chosen part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Phrases</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cues</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Trust</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Program</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Apply rules</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A beat or a phrase begins here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Downbeats: where bars, sections and drops begin</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What each ear gets</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Fit to what was detected</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go to the mix point</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Half: fewer beats or rows, and back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Place of the spot check</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Jump to the next place to review, or from chorus to chorus</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Click: the reference beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Local tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Metre and mix zones</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Next</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Other ways to count</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pins, places to mix, and pads</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Another page of the stage</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Role and letter of a phrase</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Speed and steady tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo, and values you type</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Use: as outgoing track, in the grid</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>View: what is shown, and how</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tabs and texts at the right</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Confirm a place</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Musical key</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Gap: no beats</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Add a recording?</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Add it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Don't add it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Another program asks for one file after the other: answer the first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Another program asks Mervid to add {0}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No pad was learned.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In {0}, {1} is: {2}{3}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No pad can do that: choose something that has a key, or that / finds.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In {0}, this pad is: {1}{2}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>This pad asks for '{0}', which Mervid doesn't know: learn it anew.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>1 recording has moved: its track and all work on it are kept.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:,} recordings have moved: their tracks and all work on them are kept.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is no recording in what was dropped.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} has moved: its track and all work on it are kept.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is not the sound it was. Your pins and cues are kept.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: no beats could be heard. Type a tempo, or place pins.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} The recording is heard again.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What was dropped can't be read: {0}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Not analysed: you took it back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A track is</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Taken back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Done again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:,} tracks are</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} out of the library; no file is touched. Ctrl+Z in Gather puts it back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is nothing more to take back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is nothing to do again.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is a list now. Ctrl+Z in Gather takes it back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is deleted; no track is touched. Ctrl+Z brings it back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is written to {1}: {2} tracks.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Grid, bars and phrases borrowed from {0}. Nudge it against the reference beat (K).</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>the fitted grid</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>the grid when last locked</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The last recipe is still being put down.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing is left that would be placed.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>left out by hand</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>nothing to place</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>not reached before it was stopped</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Written: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} tracks are not looked at yet: wait for them, or stop looking.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} can't be written: {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} has the grid, phrases and cues of {1} now{2}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} doesn't run along with {1}, so nothing was handed over.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose a folder, or a stick that is plugged in.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>It is being written already.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>None of these tracks can be delivered.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is no track in sight: choose a list in Gather.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The plan is still being worked out.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Stopping after the track that is being written…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} tracks written and read back, {1} were there already.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:,} tracks are too many for one folder ({1:,} at most): choose a list.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing was written: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}, {1} KB, written {2}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Writing {0} …</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Taken over from {0}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} can't be written: {1}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is not text, so it holds no beats to import.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} can't be read: {1}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear a live drummer</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Eight recordings come in and are heard. A drummer played Copper Ferry: its tempo is a range.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Wait until Copper Ferry has a tempo, choose it in the table and press Enter: it opens in Align.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take in the demo set</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>See him drift</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The fold is the track cut at every bar and stacked. Under one steady tempo its ink wanders.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Press S: one steady tempo. Look how the threads bend, and at the worst error at the right.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One steady tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Make him true</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A grid that follows has a pin wherever he changes his mind; between two pins the tempo is even.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Press F: follow the recording. The threads stand straight.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Follow the recording</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Trust your ears</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Eyes find most faults, ears decide. The reference beat is played along the grid.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Press Space to play and K for the beat: they must stay together. Space stops.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Reference beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Put cues by a recipe</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One row is one phrase. A recipe says in words where cues go: first beat, drop, chorus.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go to Phrase (F4) and press A: the recipe in hand puts its cues down.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Apply the recipe</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Lock what is right</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A locked track changes only after you unlock it. That is what you take to the gig.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Press Ctrl+L. The list shows a boxed tick.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Lock</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear two tracks together</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Both tracks lie on one clock, one ink each. The tear line says by how many ms their beats fall apart.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Press U in Rehearse (F5): Copper Ferry leaves. Open Pontoon Static in the list, then G and Space.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The open track leaves</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write a stick</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What a player can't do is said before anything is written; afterwards every file is read back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go to Deliver (F6), press Ctrl+Shift+O to choose an empty folder, then Ctrl+Enter to write.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose a folder</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>; {0:,} are not in there</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:,} files are found again{1}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is no folder.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>moved or renamed, with all work on them</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>there again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Files looked at: {0}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There are more folders than this system watches ({0:,}): changes in the others are seen at the next start, or by 'Look at all files'.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The folders can't be looked at: {0}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Begins at</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Heard farthest from the grid</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bars</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>nothing heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>goes on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>by hand</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>taken away</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bar by bar</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Gear</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Places proposed</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>fine</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Title</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In doubt</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>You said</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Name</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Role</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bar.beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Sure</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>coming late</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>coming early</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bar</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In the mix</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>95 % within</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Worst</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Which</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Kind of gear</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bars together</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Apart at the end</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Why</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>left out</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} bars</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The backup is being written.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The backup is being read.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The backup is being put back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Recordings are being looked for.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>JAMS files are being read.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing of this library is kept: there is nothing to back up.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing of this library is kept: nothing can be put back into it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose a backup first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing of this library is kept.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Every recording of your library is where it was.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The backup takes the place of your library when you start Mervid the next time.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} tracks took over what was said of them</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} Wait for that first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, {0} had it already.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Written: {0}, {1:.1f} MB.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The backup was not written: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} recordings were found, {1} were not.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is no grid to loop along: choose a part (Shift+drag above), or tap.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A mix is being written already: wait for it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The sound of both isn't there: without it no mix can be written.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is being written…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> The whole was turned down to {0:.2f}, so that it doesn't clip.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is written, {1:.0f} s, with {2}.jams beside it.{3}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} could not be written: {1}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} could not be written ({1}).</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is nothing to undo.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is nothing to redo.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The track stands there already.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Being read…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hearing the beats…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} The last change is not kept.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What shall a pad do? Press its key, click its button, or find it by words (/). Esc lets it be.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> instead of what it did before</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: now move the pad, the wheel or the fader that shall do it. Esc lets it be.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is gone.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Learned: {0} of {1} is {2}{3}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is there. Nothing is learned for it yet: Settings, Pads.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} was edited since: take that back in Align first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} of {1} pairs will probably hold, before {2}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>An order is proposed for a list: choose one in Gather, with nothing left out.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>With fewer than three tracks there is no order to propose.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A track is in this list twice: take one out to have an order proposed.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The list is in a good order as it is: none that was tried is better.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The list is in another order: {0}. Ctrl+Z in Gather takes it back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Every pair of more than {0} tracks is too many to look at: choose a shorter list.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pull a beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: its beat in bar {1} of the overlap moved by {2}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is nothing to undo here.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is nothing to redo here.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The meeting isn't nudged: there is nothing to move into the grid.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nudge into the grid</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No meeting of these two is kept.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Something else was done to your library since: take that back in Gather first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} isn't heard yet.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} has no grid yet: give it one in Align first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>This pair can't be read ({0}).</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The coming track's grid moved by {0}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The grid of {0} follows its recording.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep a meeting</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Forget a meeting</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The sheet is still being worked out.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:,} tracks are too many for paper ({1} at most).</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Reading your habit from the cues that you set …</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is no grid yet, so no cue has a place: see Align.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The cues are as this recipe places them already.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>it is as long, and sounds otherwise.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>nowhere: it begins as it did</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is not the recording that was heard: {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>it has {0:,} samples a second, where it had {1:,}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: grid, cues and phrases were moved {1}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} was changed on the disk: it is compared with what was heard…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: the new recording doesn't run along with the old one, so nothing was moved. Pins and cues lie where they were.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} was changed on the disk and can't be read any more: {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} holds another sound than was heard for {1}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is played from {1} again.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The disk of {0} doesn't answer.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Still listening: the second opinions come in a moment.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is no second opinion: no other reading is likely.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Your library is damaged on the disk. Close Mervid and start it again: what can be read is saved then, and the damaged file is kept.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Your library is being brought up to date: {0} of {1} tracks.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Your library is up to date: {0} tracks.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} (straight at {1:g})</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Straightened from {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is straight at {1:g} BPM: {2}.{3}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} was not straightened: {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No track is chosen.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing would change: the files say all of it already.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>They are being written already.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} files written. They can be taken back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:,} tracks are too many at once ({1:,} at most): choose fewer.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Wait for the preview.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} files are as they were.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No tag was written: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Not calibrated yet.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>; the tempo wanders</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} taps, each ± {1:.0f} ms, so beats ± {2:.0f} ms</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tap once with every click: {0} more measure how late you and this device are.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Your {0:.0f} ms are taken off.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} The first strike starts the music; most of a minute is enough.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>; {0} left out</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>You tap {0:.0f} ms late here, within {1:.0f} ms: taken off from now on.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tap at least {0} beats first (0, then Space).</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is no grid yet: type a tempo first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is set, but beats lie up to {1} off it (at {2}). Ctrl+Z takes it back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: no beat is heard more than {1} off it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>This is a beat: listen again around it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A bar starts here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Begin the count anew here: the bar before may be odd</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take away the odd bar nearest to here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Type how many beats a bar has from here on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Type how many beats all bars have, and hear where they begin</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Call the bar here bar 1</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Call the first bar of the music bar 1</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pin the nearest beat to the attack here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Remove the chosen pin</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go to the next pin and choose it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go to the pin before and choose it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nudge the chosen pin 1 ms earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nudge the chosen pin 1 ms later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>beats a bar</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>From the bar here on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bars of this part, as they are heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>All bars, as they are heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing sounds here yet: go to the first bar and press Ctrl+D.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No pin is chosen: N goes to the next one, or click one.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo 0.01 BPM faster</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo 0.01 BPM slower</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo 0.001 BPM faster</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo 0.001 BPM slower</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tour: hear two bars at each place of the spot check</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>On the tour: stop here and mend it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tap along with the music</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Measure how late you and this device tap</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Borrow the grid of the full recording</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is nothing to hear here yet.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No listening check is running: Alt+Q starts one.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Heard along your taps. Ctrl+Z takes it back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>This track is not heard yet: wait until it is.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Mend it here ({0}): drag hits onto the line, or nudge. It goes round; Alt+Q goes on.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What was heard in the last two bars, against the grid: late means the grid comes too early</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Early or late</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>nothing heard here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>on it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slide the grid</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag to slide the whole grid, also while it plays: 5 px are 1 ms</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Change the tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag to change the tempo, also while it plays</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tour</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear two bars at each place of the spot check</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Fine</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>On the tour: this place is right, go on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Fix</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slide</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tap…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Borrow…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take the grid of the full recording</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Findings</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go there</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Shown in the fold while you point at it; a click takes it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Type a tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Round the tempo to a whole number</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo from two downbeats: mark the first, then the last</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Count every second beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Count twice as many beats</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Count three beats for two</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Count two beats for three</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slide the grid 1 ms earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slide the grid 1 ms later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slide the grid 10 ms earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slide the grid 10 ms later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slide the grid half a beat earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slide the grid half a beat later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slide the grid a beat earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slide the grid a beat later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Type how far a beat may stray</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>bars between</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How far a beat may stray</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>mix zones</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo from {0:.3f} s to {1:.3f} s</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:g} BPM</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:.0f} BPM</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>First downbeat marked at {0:.3f} s. Go to a late one, press Alt+D.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:.3f} BPM</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Next place of the spot check</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Place of the spot check before</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Spot check: the same close look at five places</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Table of pins and bars</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>This place is right: mark it as seen, and on to the next</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go to the next doubtful place</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go back to what was heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Show the next way to read the track</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Compare: now, the fitted grid, the grid when last locked</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep what is shown instead</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go back to what stands; let go of the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Half-beat lines on or off</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>More bars a row in the fold</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Closer</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Wider</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Turn the leaf of tools at the right</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write a note</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing is marked: open the spot check first (Q).</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>All five places were seen: the track is checked. Ctrl+L locks it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No beat is doubtful or out of tolerance.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing to compare: the fitted grid and the last locked one are this one.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Mix zones</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Elsewhere</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No grid yet. Type a tempo, or set pins.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>FINDINGS</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>BPM</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo in BPM</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Type a tempo and press Enter: one steady tempo, kept in place at the first hand pin (T)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pin every</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Enter jumps, Shift+Enter renames</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set cue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>On the nearest downbeat (C); just here with Shift (Shift+C)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Analysis or a hand is still at work</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>You looked at it and it is right</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Safe to play: nothing changes until you unlock it (Ctrl+L)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}{1} BPM, {2}, {3} of the beats within tolerance.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>FIT THE GRID</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>in the mix zones</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Use the typed tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Whole</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Round to a whole number; the cost is shown (Shift+T)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>2 points</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Mark an early and a late downbeat (Alt+D)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>All</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Let go of the part: the whole track (Esc)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} pins</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}{1} BPM, {2}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Work by hand</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hot cues</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A note of your own</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Work by ear</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>3 for 2</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>2 for 3</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Move the whole grid half a beat earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Move the whole grid 10 ms earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Move the whole grid 1 ms earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Move the whole grid 1 ms later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Move the whole grid 10 ms later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Move the whole grid half a beat later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Beat here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The attack at the playhead is a beat: listen again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bar here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The beat at the playhead begins a bar</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tie the nearest beat to the attack at the playhead</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Remove the chosen pin, or the nearest</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bar 1 here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Call the bar at the playhead bar 1: no instant moves</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Count anew here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A bar begins here, the one before may be odd</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>beginning</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>end</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Near tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Listen again with tempi near the typed one</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Listen again: one steady tempo in this part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No beats</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Listen again: nothing is a beat in this part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Count on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bars of this part count on from what comes before</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A hand pin on every beat heard in the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A hand pin on every bar of the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A hand pin on every second bar of the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A hand pin on every fourth bar of the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Follow it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The fewest pins within tolerance, in the part only</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Own tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One steady tempo for the part, as it is heard; Shift+L types it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>From one tempo to another over the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No beats run in the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Mix zone</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The part is a mix zone, or is no longer one</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>CUES {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>FINDINGS   {0} to decide</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> ({0} by hand)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} (W changes)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The part {0} at</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where the part {0}: type such as 1:23.4 and press Enter</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>not possible here:
press to see why</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>within {0:g}, {1:g} ms: {2} pins
{3}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}, {1} pins
{2}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The part begins here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The part ends here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Listen again: this part is steady</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Listen again: no beats in this part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pin every beat of the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pin every bar of the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pin every second bar of the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pin every fourth bar of the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Follow the recording in the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A tempo of its own for the part, measured</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Type a tempo of its own for the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Ramp from one tempo to another over the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A pause: no beats run in the part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A tempo of its own</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Ramp</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A ramp needs a bar where it begins and one where it ends inside the track.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The part must end after it begins.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Note</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A note of your own: how it mixes, what to watch for</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tolerance {0}, ms</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How far a beat may stray {0}: drag to see what following would need (Alt+T types)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}, {1}. Enter jumps, Shift+Enter renames.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Align</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo, pins, downbeats, drift</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag ink in the fold</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pull it onto its thread: a hand pin, and the hearing is guided</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Ctrl+click in fold or close-up</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>This hit is the beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Shift+drag in the overview</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose a part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag a zone's edge in the overview</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Move the edge of a mix zone</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Shift while dragging</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No snapping to attacks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>not checked yet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Calibrate</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>bars a row</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No beats were heard here. Type a tempo at the right to begin a grid.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Use these taps</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Start again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find the beats along these taps (Ctrl+Enter)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Forget these taps</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Other ways to read the beats and bars, one after the other (O)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Next reading</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing odd.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Listening for what is odd…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Stop</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>BAR FOLD</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The track cut at every bar and stacked</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>SPOT CHECK</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>TABLE</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>TAP</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Compare: {0}  (V flips)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} bars a row</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Other readings {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} of {1}: {2}, {3} likely</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>All seen</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>straight threads: the grid is true</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} to see.  X: seen, and on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The guide, at what is seen</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The first ten minutes: a guided start</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Learn a pad: say what, then move it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Learn a fader for the balance</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Learn a fader for the tempo of a steady clock</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pad board: pads, wheels and a fader in a window</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tap a beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tap a downbeat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Reference beat on or off</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Next reference beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Split: the track in one ear, the reference beat in the other</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Half-beats in the reference beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Loop on or off</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Longer loop</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Shorter loop</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Half speed</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go to the beginning</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go to the end</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find a command</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>All keys</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Play or pause</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>All edits of this track</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In figures: what the pictures show, as tables</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The list at the left, or room for the pictures</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Save: everything is saved as you work</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Print: the prep sheet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Quit</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Close this window</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Open recordings</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Add a folder, with all below it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Add a folder and make lists of it and all below</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Export JAMS</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Export a beat list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Export labels of phrases and cues</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Export a MIDI tempo map</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Export a WAV copy with cue points</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Import beats, phrases, cues</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Copy a report: versions, settings, last lines of the log</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Day or night</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Everything is saved as you work: there is nothing left to save.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A report is on the clipboard, ready to paste. It names no file and no track.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Settings</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One beat back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One beat on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One bar back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One bar on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One phrase back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One phrase on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The next track of the list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The track of the list before</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Next track to review</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Previous track to review</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set a cue on the nearest downbeat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set a cue just here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cue 1: go there; in Phrase, set it where there is none</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cue 2: go there; in Phrase, set it where there is none</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cue 3: go there; in Phrase, set it where there is none</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cue 4: go there; in Phrase, set it where there is none</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cue 5: go there; in Phrase, set it where there is none</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cue 6: go there; in Phrase, set it where there is none</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cue 7: go there; in Phrase, set it where there is none</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cue 8: go there; in Phrase, set it where there is none</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go to a cue; in Phrase, set it where there is none</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Lock or unlock</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Undo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Redo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing more in {0} needs a person.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What leaves</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Ways out</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>For a player: the list on a stick</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>On the stick: what a player finds</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Straighten: one steady tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tags: what is known, into the files</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Paper: a sheet for the booth</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep: the whole library as one file</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Do what the page is for: write, straighten, print</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose the folder or the stick</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Straighten the open track</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take the chosen one off the list of what is straightened</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where is it written?</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where do results go?</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write the sheet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Back up</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Look into a backup</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where are the recordings?</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where are the JAMS files?</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No track is open.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Your own profiles lie in {0}; those that came along, to copy from, in {1}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} can't be made: {1}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>'{0}' is no number.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No copy of a day was made yet: one is made at each start, of a day that has none.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>BACK UP</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tracks, grids, cues, lists, pairs, recipes and profiles in one file. Recordings are not in it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>With a JAMS of each track</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>An open form beside the library, for other programs</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>PUT BACK</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>First it is said what would change. What is replaced is kept beside your library.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Put it back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>At the next start of Mervid</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep what there is</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Put nothing back after all</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>ANOTHER MACHINE</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>After a library came from elsewhere: recordings are found again by name and size, and keep all work.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>FROM JAMS</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Grids, phrases and cues made elsewhere, taken over by the tracks of their names. Ctrl+Z undoes it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A backup takes the place of your library when Mervid starts the next time.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Back up…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write the whole library into one file</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Look into a backup…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>See what it would change</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find the recordings…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Look in a folder and all below it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take over a folder…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>JAMS files in a folder and below</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Room for a track</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How much each track tells</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Paper</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The paper in the printer</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write as PDF…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Vectors, with the fonts inside</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write as TSV…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The same as lines of values</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>THE SHEET</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The sheet is being worked out…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Every pair is being judged…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>follows grids that bend</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>one tempo a track</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>copied bit for bit</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The player</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Whom it is for: a profile says what it can do</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep lost hot cues as standby cues</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In what is written; your cues stay</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Make straight what wanders</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Rendered at one tempo, for a player with one</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Remove what is in no list any more</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Only files that Mervid wrote, and nobody changed</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write, read back and compare</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What is whole stays; the next run goes on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>up to {0:g} kHz, {1} bits</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What becomes of each track</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What was written</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>LEDGER</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>THE PLAYER</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Own profiles…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Open the folder of your own profiles</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>WHERE TO</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Folder or stick…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose where it is written</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>PROPOSED</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No folder is chosen yet.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Looking at every track…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write 1 track</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write the lists</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing is lost.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> {0} bits</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>no list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Remove {0} files in no list any more</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>JAMS</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} tracks written and read back, {1} there already, {2} removed.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write {0} tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is a folder for {0}: {1}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Deliver</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tags, straightened sound, a folder for a player, paper, a backup</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Double-click a file on the stick</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Put it into the player</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Click a row of what was straightened</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Its folds before and after</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What is on the stick</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>no tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>no grid: nothing to sync by</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>its grid bends with the music</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>WRITTEN FILES, AND NOTHING ELSE: ENTER PUTS ONE INTO THE PLAYER</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No track is in the player.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>LIST</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>FILE</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is no folder for a player yet: write one first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:g} BPM by its tag</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>one tempo, {0:.2f} BPM, up to {1:.0f} ms off</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, key {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>too few beats</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo, BPM</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One tempo for all of it; proposed is the nearest whole one</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drift taken out, %</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>100: all of it; less keeps some of the feel</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Glide, bars</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>So long the middle takes to its own tempo and back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pitch</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Stays for drummers; goes with the speed for records and tape</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How much of it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In the middle the track can keep its own time</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Format</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Lossless, in the bits of the recording</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep the swing inside the beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Else second halves of beats begin in their middles</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Turn down what would clip</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>By as little as it takes, and it is said; else it is refused</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Straighten it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Into a new file, which becomes a track of its own</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Straighten the list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Each at the tempo that it proposes</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>As proposed</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Let go of what was typed here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No half file is left</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What was straightened</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drift out, %</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Elsewhere…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose the folder of results</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>beside the recording</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>WAITING AND MADE</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, mix zones</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>being made…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Straighten the list ({0})</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>into {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>peak {0:+.1f} dBTP</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>It has no grid yet: give it one in Align first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Open a track in the list.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>It is not done yet.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>It is not heard yet: wait a moment.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>It has no grid.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>FOR A PLAYER</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>ON THE STICK</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>STRAIGHTEN</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>TAGS</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>PAPER</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>KEEP</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Looking at every track: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Straighten it, and the result is seen here.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The list in sight, on a stick</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What a player finds there</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One steady tempo, into a new file</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What is known, into the files</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A sheet for the booth</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The whole library as one file, and back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Template</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Which words go into which tag: comment: {key} {drive} {comment}; grouping: {line}. Tempo, key, drive and rating have tags of their own, and what you edited in Gather goes along. Artists and title only if you edited them.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cues, phrases and beats, too</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>As chapters and cue points; beats where the format has a place for them</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Sound stays to the bit; it can be taken back to the byte</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What would change</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>TEMPLATE</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>CAN BE TAKEN BACK</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write into 1 file</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing was written yet.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} of {1} files would change.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Byte for byte as the files were</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Forget</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep the files as they are for good</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>TRACK</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>TAG</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>IS</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>BECOMES</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Looking into the files…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tags: {0}.
Words: {1}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write into {0} files</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} files</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> {0} say all of it already.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>BPM, as 110-118; with * also at half and double</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Needs a person</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Year…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drive…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In a folder…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In a list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>in no list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There more than once</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>File missing</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>From … to …</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Fits…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>no genre</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tracks in and below this folder</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Kind of time</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Years, as 1974-1979</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drive 1 to 9, as 6-8</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A key, as A minor or Eb</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} ORDER BY count(*) DESC LIMIT {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}, the key of {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Words and keys</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find: type words</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Let go of words and filters</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Only what needs a person, or all again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Only tempi within 4 % of the chosen track, or all again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Only keys that fit the chosen track, or all again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Turn the leaf at the right: about, tags, what fits</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Roomy or compact rows</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Which columns are seen</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Type the words of the chosen tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set the key of the chosen tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take the chosen tracks out of the list, or out of the library</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take the chosen tracks out of the library</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Undo in the library: lists, words, keys, what was taken out</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Redo in the library</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear the chosen tracks next</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear the chosen tracks again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take the chosen tracks out of the queue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find the files of chosen tracks that are missing</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tags from file names</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Work on it in Align  (Enter)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Analyse next  (N)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Put into</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Edit tags…  (Alt+Return)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Key of the tracks…  (Shift+Y)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find missing files…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Open its folder</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take out of the library</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose a track with a tempo first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose a track whose key is known first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>as A minor; nothing is what was heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>None of the chosen tracks is missing its file.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take out of the queue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take out of the list  (Del)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where are the files of {0:,} tracks? All below is looked at</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>New list; with the chosen tracks in it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>New folder for lists</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep words and filters as a standing search</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Look at all files: what is new, moved or missing</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Put the chosen tracks into a list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep the list as the table is sorted now</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write this list to a file</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>New list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Standing search</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Watch this folder, and all below it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write this list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>New list…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>New folder for lists…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Make lists of it and all below</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Look at it now</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Watch it no longer</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Type words or choose a filter first: a standing search finds what they find.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Show a whole list, sorted as you like, first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose a list at the left first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Rename  (Shift+Enter)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Delete  (Del)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>New list of {0:,} tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose tracks first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is no playlist yet: Ctrl+N makes one.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write to a file…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>New list in it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} looks for this from now on.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>begins at, as 22:30</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>When the first track of the list is played</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Notes on this list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Notes on the list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} h {1:02d} min</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>fills itself</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>all lists in this folder</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Key</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drive</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Loudness</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Length</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Form</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Lists</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Added</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Played</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Made from</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>File</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Work on it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set the key…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>encoder's delay not known</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find the file…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>none</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>THE SAME PERFORMANCE</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> (this one)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}, set by hand</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, else {0} {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, true peak {0:.1f} dBTP</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose one track to see what fits it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing in the library is near its tempo.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No track is chosen</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What is typed under Tags is written to all of them.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear it again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take its grid, phrases and cues</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The preparation of that file is given to this one, moved to where the music begins in it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:.1f} LUFS{1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:.1f} of 9</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, the better one: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:,} tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} BPM</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>about a minute</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pause</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Begin no new recording; what you open is heard all the same</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How many cores hearing may use, and whether it waits while you play</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Wait while something plays</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>about {0:.0f} min</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>about {0:.0f} h</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>about {0:.1f} h</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: waiting while you play.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find: title, artists, album …   or   tempo:110-118   key:Am   genre:disco</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Only…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Ask for more: tempo, key, readiness, genre and others</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep as standing search</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Its list fills itself with what these words and filters find</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Only {0}; press to let go of it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:,} of {1:,}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Only {0}: click to let go of it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>WATCHED FOLDERS</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>New…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A new list, a folder for lists, or a watched folder</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>List	Ctrl+N</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Folder for lists</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Watched folder…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Ctrl+N makes one; or drop a folder or a playlist here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>New files in them come in by themselves: New… below</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Gather</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The library: find tracks, see what waits, make lists</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Click a head of the table</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Sort by it; with Shift by it as well; right click chooses columns</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Double click a row</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Work on that track in Align</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag rows onto a list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Put them into it; in a list, drag rows to order them</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag a list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Into a folder, or to another place</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>in need of a person</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tools…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Large and small letters, spaces, tags from file names</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>From file names by another pattern…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>As in the files again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Kept in the library. Your files stay as they are.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The bytes were likely read in the wrong encoding; Ctrl+Z takes it back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: title, artists, album</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>From file names: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Repair letters: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>; {0:,} names are of another form</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:,} tracks have tags from their names now{1}. Ctrl+Z takes it back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> and {0} more tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set a standby cue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set cue 1 here, whatever stands in it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set cue 2 here, whatever stands in it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set cue 3 here, whatever stands in it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set cue 4 here, whatever stands in it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set cue 5 here, whatever stands in it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set cue 6 here, whatever stands in it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set cue 7 here, whatever stands in it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set cue 8 here, whatever stands in it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set a cue here, whatever stands in its slot</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Delete the chosen cue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go round the loop of the chosen cue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The player that stands in</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>first beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No cue is chosen: click one.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The chosen cue has no loop: give it one first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No cues yet. 1 to 8 set one
at the playhead, A applies the recipe.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The track in one line</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The track in one line: your words, or made from its form if empty (Shift+W)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bars count</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>PHRASE</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Role of the phrase</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What this phrase is for (R steps through)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Letter of the phrase</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Phrases with the same letter are alike (Alt+R takes the next)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Section from here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A section begins with this phrase, or goes on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Close section</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Its phrases as one row of the ladder, or each as its own</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>CUES</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>At the</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where new cues snap to</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>New and moved cues go to the nearest of these</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Role of the cue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What the chosen cue is for</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Kind of the cue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hot: plays at once. Standby: a player jumps there and waits</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slot of the cue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Its slot</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Loop at the cue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bars of the loop that begins here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Recipe</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Rules that place cues by role</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>To chosen tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Apply it to all tracks chosen at the left</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No phrases yet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>from bar 1</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bars count 1, 2, 3 … from the first downbeat (O changes)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>from the drop</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The lead-in counts −16 … −1, the drop is bar 1 (O changes)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>−1 bar</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Begin this phrase a bar earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>+1 bar</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Begin this phrase a bar later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Split here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A new phrase begins on the bar line at the playhead</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Merge up</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Make this phrase part of the one before it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>As heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Forget what hands did to the phrases</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hot</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set a hot cue at the playhead</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Standby</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set a standby cue at the playhead</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>CUE RECIPE</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Apply</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Place its cues; what a hand set stays</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Same section</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Open it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>no loop</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>SECTION OF {0} PHRASES</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>PHRASE {0} OF {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}    BAR {1}, {2} BARS</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> The key here: {0} from the beginning.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>(changed, not saved)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> (and {0} more)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>; not placed: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>CUES   {0} hot, {1} standby</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>slot {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>loop {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Left out: {0}{1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> and {0} more</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>To {0} tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Split: a phrase begins on the bar line at the playhead</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Merge the chosen phrase with the one before</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Begin the chosen phrase a bar earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Begin the chosen phrase a bar later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A section begins with the chosen phrase, or goes on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Close the chosen section to one row, or open it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Close all sections, or open them</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Next role for the chosen phrase</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Role before for the chosen phrase</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Next letter for the chosen phrase</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>From the chosen phrase on the key is a semitone higher</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>From the chosen phrase on the key is a semitone lower</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Phrases as they are heard: forget what hands did</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The phrase before</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The next phrase</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Count bars from the drop, or from the first downbeat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Count bars from the bar line at the playhead</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write the line of words</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear the next skip from chorus to chorus</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Close or open the section	H</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Key a semitone higher from here	=</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Key a semitone lower from here	-</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Split at the playhead	S</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Merge with the one before	Backspace</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There are not two choruses here to skip between.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>From bar {0} it goes on at bar {1}: {2:g} bars are left out.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Apply the recipe in hand</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The recipe in hand over the chosen tracks: the contact sheet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A recipe from the cues that you set by hand</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The recipe in words</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Skips</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write the account</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Your habit is the recipe in hand: change it, save it, apply it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take a recipe from a file</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>None is left in doubt.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> Ctrl+Z takes it back.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Kept as {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> Not placed: {0}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What the cue is for</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where, in words: the drop, each chorus, half of the intro, 4 bars before the drop …</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>As</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hot, standby or both</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slot</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Which hot cue it becomes</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Loop</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A loop that begins there</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take this rule out</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take this rule out of the recipe</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Name of the recipe</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How likely a role must be for a cue to stand there</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>any slot</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Put</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Add a rule</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One more sentence at the end</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Save</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep it among your own recipes, under this name</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>From a file…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take a recipe from a TOML file</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>From my cues…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Read a recipe from the cues that you set by hand (Alt+A)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>first downbeat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>bar {0}{1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tracks done</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Leave off: what is done stays</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Next in doubt</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The next track to look at (N)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>As it should be: on to the next in doubt (X)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Fix in Phrase</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Open this track; Shift+A comes back (Return)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take out</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Leave this track out, or take it in again (Space)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take it all back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Undo it in every track not changed since</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Export…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What became of each track, as TSV</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Put down</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Place the cues in all tracks that are taken</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Close the sheet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The sheet is done with; what was placed stays</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>taken out</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take in</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>as it was</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>in doubt</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Put down in {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} of {1} tracks have new cues.{2}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} tracks: {1} in doubt</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} tracks, none in doubt</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, {0} taken out</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} of {1} tracks have their cues …</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> The account is kept: {0}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, {0} can't have it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Play two bars before it, and skip on the beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>keeps the phrase at any place inside</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>only where they begin</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There are not two choruses or drops here to skip between: change a phrase's role if there are.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> {0} more.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>from {0} {1} at bar {2} to {3} {4} at bar {5}: leaves out {6:g} bars, {7}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A skip leaves where one begins and goes on where a later one begins.{0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Phrase</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The form of the track, cues, loops, recipes</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag the end of a row in the ladder</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The next phrase begins there, on a bar line</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag a cue in the ladder</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Move it; freely with Shift</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Right click a row in the ladder</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Roles, sections, split, merge</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Click a flag in the contact sheet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Leave that cue out, or take it in again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>without cues</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Too few bars to tell phrases from.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Back to what the recipe would do to all of them</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>none in doubt</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No beats were heard here, so there are no bars yet. Begin a grid in Align.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>CLOSE-UP</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The waveform around the playhead</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>RECIPE</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>PLAYER</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>SKIPS</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The rules of the recipe in hand, and what each would do</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What a player at the gig will see</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} still in doubt</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Back to the contact sheet of {0}: {1} tracks, {2}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The two</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where they meet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Swap leaving and coming</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Next pair: the coming track leaves, the next of the list comes</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Next place that is proposed</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Place proposed before it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The coming track enters a phrase earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The coming track enters a phrase later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Type where they meet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Land the drop on a change of the leaving track</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Overlap twice as long</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Overlap half as long</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Next clock: the leaving track's, a steady tempo, a glide</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pitch held, or with the speed</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tone of the leaving track: low, middle and high in dB</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tone of the coming track: low, middle and high in dB</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Count the coming track otherwise: alike, at half, at double</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go to the meeting</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The coming track 1 ms earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The coming track 1 ms later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The coming track 10 ms earlier</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The coming track 10 ms later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No nudge</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The nudge into the coming track's grid</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go to the next beat at which they part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pull the beat here onto its thread</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Leaving track alone</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Coming track alone</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Leaving left, coming right</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>They meet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Its drop falls</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Land the drop</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A steady clock</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Another fade</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cues are set in Align and Phrase: here two tracks run on one clock.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Enter at a cue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Meet there</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Enter elsewhere</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slide the zipper</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Another length</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Another clock</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hold the pitch</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pitch with the speed</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Low sound changes hands</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Count otherwise</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>As loud</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nowhere here are they farther apart than an ear forgives.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>leaving at</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>coming from</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>on the leaving track's</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>bars left until then</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>tempo, BPM</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The {0} track, dB</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is the last one of {1}: nothing comes after it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} has only {1} bars before its drop: it begins that much later.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Both lie on their threads here, within {0:g} ms.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The coming track has no cue {0}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep this meeting</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Forget the meeting that is kept</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write the mix to a file</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pairs of the list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Judge every pair of the list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Propose an order of the list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>These two can't meet yet, so there is nothing to keep a note with.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Only a list as it is can be put in another order: choose one in Gather.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Not judged yet.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>the meeting that is kept</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>the best place</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Riskiest first</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Sort the pairs by how likely they are to part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Judge every pair</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Every track against every other, in the background</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Propose an order</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>An order of this list with small steps of tempo and drive, and safe pairs</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>By {0}, {1} bars: holds with a chance of {2}. {3}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>kept</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}, {1} bars</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} of {1} pairs judged…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} tracks, {1} pairs in a row</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Foretold: 95 % within {0:.0f} ms. Heard: {1}. Coming runs {2}{3}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>LEAVES</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>COMES</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear only</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Leaving</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear the leaving track alone</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Coming</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear the coming track alone</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Split</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The leaving track left, the coming one right</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Leaves at</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Comes from</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Clock</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The coming track is set as loud as the leaving one</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Leaving fades</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How the leaving track goes, over the second half</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Coming fades</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How the coming track comes, over the first half</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Low sound</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where low sound passes from one to the other, so that two basses don't sound</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>To its grid</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Move the coming track's grid instead, for good</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep it in the library, at both tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write the mix…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>As FLAC or WAV, with an account of every beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>They may part</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Swap</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The coming track leaves, the leaving one comes</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>It leaves</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The open track leaves from now on; open another: it comes</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Next pair</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The coming track leaves, the next one of the list comes</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>HOW THEY MEET</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Type…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Type where they meet, and for how long</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Its drop…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>So that its drop falls on a change</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Half as long</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Twice as long</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Whose time is kept</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>goes with speed</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pitch when the speed differs</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>WHAT TO DO</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>PLACES TO MEET</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>KEPT MEETINGS</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Kept</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>will probably</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, at half</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, at double</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}, {1} bars. {2}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>They {0} stay together</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} {1}: {2} sure</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, up to {0}: beyond {1} it is heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} bars{1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>To Deliver, where it is rendered anew at one steady tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>1 ms later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Another beat: the one at the playhead</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Straighten {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Rehearse</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Two tracks together, by ear and by figure</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag a ladder of the zipper</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Meet elsewhere in that track, by bars</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag the lower end of the overlap</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A longer or shorter overlap</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag sideways in the fold</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hold the coming track back or push it on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Shift+drag ink in the fold</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pull one beat onto its thread: above of the leaving, below of the coming track</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Click in the fold or the tear line</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Play from there</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Click a cell of the matrix</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Rehearse that pair</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>bar {0} of the overlap: {1} beside its beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: 95 % within {1:.0f} ms</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>THE PAIR</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Both tracks as they meet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>PAIRS OF THE LIST</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Every pair of the list in sight ({0})</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bar fold</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The track cut at every bar and stacked. Straight threads mean a true grid.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>bar {0}, beat {1:.2f}, at {2:.3f} s</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, nearest beat {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Close-up</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The waveform around the playhead. Drag a beat line to place a hand pin.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} wide</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Contact sheet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One small ladder for each track, with the cues that the recipe would place.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} at {1}{2}. A click takes it out or in.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The tracks are being looked at…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} more</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drift trace</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Heard beat minus grid beat over the track, in milliseconds; late is up.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The drift shows as soon as the beats are heard.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>0 ms</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Interleaved fold</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Both tracks bar under bar on one clock. One thread: they stay together; two: they part.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>bar {0} of the overlap, beat {1:.2f}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>, nearest beat {0} apart</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Phrase ladder</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>One row for each phrase, with its length in bars and its cues.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No phrases yet: the track needs a grid and a few bars of music.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Match</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where each stretch of this recording lies in the other, and how exactly.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Overview</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The whole track. Click to move the playhead.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Matrix of pairs</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Which track of the list may follow which. Rows leave, columns come.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}, then {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: within {1:.0f} ms, holds with {2}, {3}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A list of two tracks and more has pairs: choose one in Gather.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: not judged yet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}  {1} {2}, bar {3}, {4:.0f} to go</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>no cues</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Prep sheet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} tracks, {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>bar {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Spot check</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Five places of the track, beat under beat. Drag a hit onto the line to pin it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>not heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is no grid to check yet.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>bar {0}, {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>worst {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The track cut at every bar of one steady tempo. Straight threads: it runs at that tempo.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There are too few beats.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>BPM from here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Set by</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Worst error</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Middle error</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>not yet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tap pad</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Strike Space along with the music, Enter on downbeats. Ctrl+Enter uses the taps.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Space or click: a beat      Enter or right click: a downbeat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tap along with the click</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Each tap shows here, late upward.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>± {0:.2f} BPM</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} of at least {1} taps</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tear line</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How far the heard beats of both tracks fall apart, in milliseconds, beat by beat.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Too few beats are heard in both to tell how far apart they fall.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>95 % within {0}, worst {1}; an ear forgives {2}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>bar {0} of the overlap: {1} apart; in this bar 95 % within {2:.1f} ms, worst {3:.1f} ms</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Zipper</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The phrases of both tracks side by side; drag one to meet elsewhere.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag: the coming track enters earlier or later in itself</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag: they meet elsewhere in the leaving track</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag: a longer or shorter overlap</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>runs as fast</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>begins with it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} of {1} stretches fit ({2}), none more than {3:.1f} ms off. This recording {4} and {5}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose the recording it was made from. Both are compared by their sound alone.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Recordings with a grid</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take over grid and bars</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Leave it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No other recording has a grid yet: open the full recording first, and let it be heard.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>begins {0} into it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose a recording at the left.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>begins {0} before it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> At {0} {1:.1f} s are cut out.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> At {0} it goes back by {1:.1f} s.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Borrow a grid for {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Whose grid fits {0}?</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Comparing with {0}…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: no fit.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> Mind that the grid of {0} is still a draft: check it first.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bars of a live drummer, as they are heard and as the grid follows them</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bars of a drummer, as they are heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The grid follows them</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Music in which nobody kept machine time</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Mervid hears the beats, shows where they drift, and builds a grid that follows them.
Your files are only read, never changed. WAV, AIFF, FLAC, MP3, Ogg, Opus or M4A.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In figures</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>As lines of values between tabs, for a spreadsheet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Copy this table</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Close</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Enter or a double click goes there.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Add a folder, and all below it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hand over</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The new one would take its place.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Replace it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Import beats</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write the mix</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where is {0}?</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is there already: {1}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Drag a track onto another in the list</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Borrow the grid of the one for the other</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Esc while dragging</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Leave it as it was</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What do you want to do? For example: half, pause, mix zone</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Commands</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No command is called so. Try other words, such as tempo, bar, pin or part.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keys of the stage that is seen</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keys</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Edits of this track</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Edits</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose one to go back to just after it, or forth again.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Letters, in every stage</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>By mouse</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>As it was heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Leave</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The step before</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>End the guided start; it can be begun again from Commands</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Shift+F1 opens the guide at what is seen, / finds any command, F1 lists the keys.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Now your own: Ctrl+Shift+O adds a folder. The demo set can be taken out of the library again.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pass over</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>That was it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Step {0} of {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Does it for you: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>That was it: {0} of {1} steps done</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: done</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The guide</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find in the guide</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pages of the guide, or what was found</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The page</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source># All keys</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Every command, with the key it has now; **/** finds them by words, *Settings* changes keys.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing in the guide holds these words. / finds commands.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A recipe from my cues</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Each sentence would have set cues that you set by hand. Untick what you don't want as a rule.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Let it be</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take it in hand</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>These rules become the recipe in hand, to be changed, saved and applied</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What you do in {0} tracks</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Mervid</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Open</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Open recordings (Ctrl+O)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Undo (Ctrl+Z)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Redo (Ctrl+Shift+Z)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Export or import beats</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Lock or unlock this track (Ctrl+L)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Light or dark theme (F8)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Everything that can be done, with its keys (/ finds, F1 lists)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Unlock</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing to {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pad board</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Fader: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Note {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Control {0}: drag, roll, or arrow keys</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Wheel: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pad {0}, nothing learned</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>OK</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Dismiss the message</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Add what is missing</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Keep as standby cues, too, what this player would lose</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Load</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>As a player does: it stands at the first standby cue, or at the beginning</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Jump to the standby cue before and wait there</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Jump to the next standby cue and wait there</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Play from here, or stop (Space)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bars and beats until the next cue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>This player has no hot cues: only standby cues help on it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Every cue is there on this player.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A player with</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cue back</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cue on</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>STANDBY CUES</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>no cue ahead</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slot {0}: {1}, {2}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Slot {0}, empty</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}, {1}: plays at once, on the beat ({2})</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>and {0} more</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>until {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Another recording</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Later</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Until then nothing is handed over for it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>This is not the recording that was heard for {0}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>as it was heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>as it is now</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Samples a second</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take the preparation over</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear it anew</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The new file is heard; pins and cues stay where they are, right or wrong.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find the old one…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Point at the file that holds what was heard; nothing else changes.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>It is locked: unlock it first (Ctrl+L).</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The new file is heard; grid, cues and phrases are moved to where the same music lies in it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>cover {0} {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cue colours</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Flags, phrase view, prep sheet and player preview use these. Letters and shapes stay.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Reset all</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>All colours that the program comes with</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Choose a colour for this role</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Reset</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The colour that the program comes with</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Colour of {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Reset the colour of {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: contrast with the background is {1:.1f}:1. Choose a colour with at least 3:1.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} and {1} look alike. Choose colours farther apart.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pages of settings</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What you choose holds at once.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Find a command, a key or a stage</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Commands and their keys</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Key of the chosen command</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No key</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The chosen command has no key any more</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>As it came</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The key that the chosen command comes with</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>All as they came</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Forget all keys of your own</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Its key</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Command</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>No key clashes.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is how windows themselves are used: choose another.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> {0} more such.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} is two things: {1}, and {2}. The first of them answers.{3}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In {0}, {1} is {2}, not {3}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pads</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What each pad does</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Learn a pad…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Say what it should do, then move it (Alt+P)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take it away</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The chosen pad does nothing any more</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take a map from a file…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A map that somebody wrote, for a controller of its name</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write it to a file…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A readable file, for others with the same controller</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pads, wheels and a fader in a window (Alt+Shift+P)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Controller</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Heard as soon as it is plugged in. What it does is kept under its name.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take a map of a controller</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Write the map to a file</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Pad</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Kind</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What it does</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}; back: {1}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>'{0}', which Mervid doesn't know</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Learn a fader: {0}…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}: then move a fader or a knob</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The map of {0} was taken: {1} pads, wheels and faders.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Written: {0}.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} (not plugged in)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Sound</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Sound device</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where the sound goes. The silent clock runs without any device.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Measure</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Clicks are played and recorded again: by a cable, or a microphone</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Its delay</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Buffer</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How much sound is kept ahead. Short answers faster; it grows by itself where the sound stumbles.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>YOUR HAND</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Clicks sound; tap along with them (Ctrl+0)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take nothing off your taps any more</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>You tap late by</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Work</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Cores for hearing</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>So many recordings are heard at once, in the background.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>While you play</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Nothing new is begun while you listen; what is begun goes on.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Empty it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Recordings are decoded anew when they are opened</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Decoded sound on disk</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Music</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Watch a folder…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>New recordings in it and below are taken in by themselves</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Its recordings stay in the library</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Watched folders</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What is new in them is taken in and heard by itself.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Another…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A range of your own, with a name</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Expected tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Settles whether a new track is counted at half or double. Tracks outside it are asked about.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In mix zones</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>So far may a beat stray where tracks are mixed. An ear forgives 12 ms at 120 BPM.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>So far elsewhere. Both hold for tracks heard from now on; Alt+T in Align sets one track's.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Watch a folder</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Look</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>as the desktop is</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>day: ink on paper</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Follows the desktop until you choose. F8 swaps.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Size</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Of everything: text, lines and handles. Holds from the next start.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In steps</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Motion</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>While it plays, pictures move four times a second instead of running along.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Files</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>COPIES</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Copies of days</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Made by itself, once a day; the last seven days stay.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Back up, or put back…</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>To the page where the whole library becomes one file</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>A copy elsewhere</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>The whole library as one file, for a stick or another computer.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Show it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>In the file manager</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How much later it sounds than it says: the playhead is drawn, and taps are put, so much earlier. Set it so that a click is heard just when the playhead crosses its line</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Taken off every tap. Measure it by tapping along with clicks, once for each device.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Not measured yet: tap along with clicks, and it is taken off every tap.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Clicks sound for six seconds. Join output and input, or hold the microphone to the speaker …</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Library</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tracks, grids, cues, lists and every edit. $MERVID_DATA moves it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Decoded sound</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>May be thrown away at any time. $MERVID_CACHE moves it.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Log</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>What went wrong, for who mends it. It stays on this computer.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>none yet</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Silent clock</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>. There is no device to set it for now.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>; each device keeps its own.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>It sounds {0:.1f} ms later than it says, within {1:.1f} ms; the input's own delay is in that.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tracks open at once while their sound lies here; what was not used for longest goes first. {0:.2f} GiB are used now. A new limit holds from the next start.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:.2f} GiB of decoded sound were thrown away.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>any tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} %   (text of {1:g} pt)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where tempi are expected: settles half or double for new tracks, and asks about others</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Expect any tempo</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Expect {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Click to sort, Shift+click to sort by it as well, right click for columns</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo range</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>my style</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>From, BPM</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>To, BPM</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Type both tempi as numbers, such as 90 and 130.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>missing</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>failed</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>not analysed</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>file missing</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Its file is not where it was.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>can't be heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>no beats heard</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Take out of the library  (Del)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Stop hearing it  (Esc)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo expected here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>as everywhere</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Hear it again  (Enter)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tracks of the library</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Roomy rows</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Play or pause (Space)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bar and beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Time</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where the playhead is</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo here</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Tempo of the grid at the playhead</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>To phrase</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bars and beats until the next phrase begins, counting down</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>To cue</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Bars and beats until the next cue, counting down</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Where the sound goes: choose an output</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source> Beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Reference beat along the grid, on or off (K)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Which reference beat (Shift+K changes)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Half-beats, too	Alt+K</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Balance between track and reference beat</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Balance: the track alone at the left, the reference beat alone at the right</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Track in the left ear, reference beat in the right: a flam is heard best so (Ctrl+K)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Go round from the bar at the playhead, or round the chosen part; seamless (Ctrl+J)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>How long the loop is (Alt+Up and Alt+Down)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Half speed, an octave lower: a flam lasts twice as long (Alt+H)</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Look for devices again</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>BAR.BEAT</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>TIME</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>TEMPO HERE</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>TO PHRASE</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>TO CUE</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Output: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0:.0f} beats</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0}. Choose where the sound goes</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Do it</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>There is nothing to say in figures yet: open a track that was heard.</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>Stage: {0}</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} – Mervid</source>
        <translation type="unfinished" />
    </message>
    <message>
        <source>{0} does not say its encoder's delay: other programs may place time zero 25 ms off.</source>
        <translation type="unfinished" />
    </message>
</context></TS>

import { calls } from "@/contract/calls";
import { mostChosen } from "@/contract/conversations";
import { openApiOf } from "@/contract/openapi";
import { appAnswer, listedApps } from "@/server/answers/apps";
import {
  draftAnswer,
  listedRuns,
  runAhead,
  runAnswer,
  scriptsAnswer,
  setSchedule,
  trialAnswer,
} from "@/server/answers/checks";
import { comparisonAnswer, lanesAhead, listedComparisons } from "@/server/answers/comparisons";
import {
  benchLine,
  benchTurns,
  callerLine,
  conversationPage,
  historyPage,
  outlineText,
  placesAnswer,
  reachAnswer,
} from "@/server/answers/conversations";
import { dispatchesOf, dispatchesOfMaking, dispatchesOfSummary } from "@/server/answers/dispatches";
import { duetAnswer, duetFile, listedDuets } from "@/server/answers/duets";
import { caughtAnswer, tryGuard, tryGuardOn } from "@/server/answers/guards";
import { jobAnswer, jobAt } from "@/server/answers/jobs";
import { chooseJudge, judgesAnswer, repliesToJudge } from "@/server/answers/judges";
import { providerAnswer } from "@/server/answers/providers";
import { keptAnswer, putRecordings, recordingsFile } from "@/server/answers/recordings";
import { stoppedReply } from "@/server/answers/replies";
import { addQuestion, questionAt, questionsFromMarks, retrievalAnswer } from "@/server/answers/retrieval";
import { noteRevision, revisionPage } from "@/server/answers/revisions";
import { giveSecret, listedSecrets, takeSecret } from "@/server/answers/secrets";
import { callFile, callsAnswer, frontEnd, servingAnswer, tokenAnswer } from "@/server/answers/serving";
import { listedSets, rowsFrom, setAhead, setAnswer, setFile, setStanding } from "@/server/answers/sets";
import { changesSince, documentText, faultAnswer, foundAnswer, sourceAnswer } from "@/server/answers/sources";
import { vectorsAnswer } from "@/server/answers/vectors";
import { appAt, editDraft, makeApp, needsOf, ownerOf, sound } from "@/server/apps/app";
import type { StoredApp } from "@/server/apps/app-store";
import { deleteProvider } from "@/server/apps/naming";
import { styleOf } from "@/server/apps/style";
import { boot } from "@/server/boot";
import { appFromBundle, bundleOf } from "@/server/bundles/bundles";
import { checkFromConversation } from "@/server/checks/from-conversation";
import { runAt } from "@/server/checks/runs";
import { deleteScript, setScriptFolder, writeScript } from "@/server/checks/scripts";
import { askBeforeLive } from "@/server/checks/standing";
import {
  addToComparison,
  askLanes,
  changeLane,
  comparisonAt,
  copyComparison,
  deleteComparison,
  goOnFromLane,
  leaveLane,
  makeComparison,
  restoreComparison,
  stopLane,
  stopLanes,
  takeLaneBack,
} from "@/server/comparing/comparing";
import { beginDuet, deleteDuet, duetAt, putIn, restoreDuet, resumeDuet, stopDuet } from "@/server/comparing/duets";
import { hideNames, markAnswer, restoreSet, setAt } from "@/server/comparing/sets";
import { thin } from "@/server/dispatches/thinning";
import { conversationAt, conversationOfApp, replyAt, replyOfAnyone } from "@/server/entrance/access";
import { askerOf } from "@/server/entrance/caller";
import { doorOf, talkBase } from "@/server/entrance/door";
import { refuse } from "@/server/ground/refusal";
import { askCommon, commonModel, commonModels } from "@/server/http/common";
import { forgetOwn, handInOwnAddress, handInOwnFile, listOwn } from "@/server/http/documents";
import { exportHistory } from "@/server/http/export";
import { keepBenchFile, keepFile, readBenchFile, readFile } from "@/server/http/files";
import { healthAnswer } from "@/server/http/health";
import { askForReply, readReply } from "@/server/http/replies";
import { Answered, serve, written } from "@/server/http/serve";
import { addSourceFile } from "@/server/http/sources";
import { benchStream, lastEventId, linesOf } from "@/server/http/streams";
import { forgetCaller, giveBadge, openVisitor } from "@/server/http/visitors";
import { addTrials, beginRun, deleteRun, resumeRun, stopRun } from "@/server/jobs/check-run";
import { beginDigest } from "@/server/jobs/digest-job";
import { beginImport, storeImport, takePart } from "@/server/jobs/import-job";
import { beginJudging } from "@/server/jobs/judging-job";
import { wantPages } from "@/server/jobs/pages-job";
import { beginProposing } from "@/server/jobs/proposing-job";
import { wantReading } from "@/server/jobs/reading-job";
import { beginRetrieval } from "@/server/jobs/retrieval-job";
import { beginSayingAgain, estimateSayingAgain } from "@/server/jobs/say-again";
import { askFailedAgain, beginSet, deleteSet, resumeSet, stopSet } from "@/server/jobs/set-run";
import { makeAnew, wantVectors } from "@/server/jobs/vectors-job";
import type { HasChanges } from "@/server/live/changes";
import { sendAgain } from "@/server/probing/again";
import { preflight } from "@/server/probing/preflight";
import { probe } from "@/server/probing/probe";
import { faultOf, offeredProviders, samplesOf, setFault, standingOf, switchOn } from "@/server/probing/standing";
import { lastAnswer, pastedCall, tryCall } from "@/server/probing/try";
import { changeProvider, copyProvider, providerAt, wireProvider } from "@/server/providers/wiring";
import { ask, bench } from "@/server/replies/ask";
import { addFolder } from "@/server/sources/folders";
import { addAddress, addCopies, lookAgain, renameSource, sourceAt, withCopies } from "@/server/sources/sources";
import { correctSummary, sumUpAnew } from "@/server/summaries/summaries";
import {
  deleteBranch,
  modelIn,
  nameBranch,
  setClear,
  setPin,
  showBranch,
  showLine,
  writeTake,
} from "@/server/tending/branches";
import {
  deleteApp,
  deleteConversation,
  deleteConversations,
  restoreConversation,
  restoreConversations,
} from "@/server/tending/deleting";
import { rateReply, writeOn } from "@/server/tending/marks";
import { sayToCall } from "@/server/tools/saying";
import { version } from "../../../../package.json";

const day = 24 * 60 * 60 * 1000;

/** An app that was changed, of which all tabs of the bench are told. */
function changedApp(home: Parameters<typeof appAnswer>[0] & HasChanges, app: Parameters<typeof appAnswer>[1]) {
  home.changes.tellApp(app.slug, app.draftHash);
  return appAnswer(home, app);
}

/** An app that was changed, whose documents are read, and cut as it wants them. */
function readFor(home: Parameters<typeof changedApp>[0] & Parameters<typeof wantReading>[0], app: StoredApp) {
  wantReading(home, app);
  return changedApp(home, app);
}

/** Every call of the contract, and what answers it. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = serve(boot, calls, {
  server: { health: healthAnswer },
  apps: {
    list: (home) => ({ apps: listedApps(home) }),
    make: (home, { body }) => appAnswer(home, makeApp(home, body.name, body.provider, body.model)),
    read: (home, { slug }) => appAnswer(home, appAt(home, slug)),
    rename: (home, { slug, body }) => changedApp(home, home.apps.rename(appAt(home, slug), body.name)),
    delete: (home, { slug }) => deleteApp(home, appAt(home, slug)),
    copy: (home, { slug, body }) => {
      const { content, copies } = withCopies(appAt(home, slug).draft);
      const app = home.apps.make(body.name, content, Date.now());
      addCopies(home, app.id, copies);
      home.secrets.copy(appAt(home, slug).id, app.id);
      return appAnswer(home, app);
    },
    setDraft: (home, { slug, body }) => readFor(home, editDraft(home, appAt(home, slug), body.draftHash, body.content)),
    bundle: (home, { slug }) => written(bundleOf(home, appAt(home, slug))),
    fromBundle: (home, { body }) => new Answered(201, readFor(home, appFromBundle(home, body.text, body.name))),
    putLive: (home, { slug, body: { content, despite } }) => {
      const app = appAt(home, slug);
      if (!despite) askBeforeLive(home, app, home.contents.keep(sound(content), Date.now()));
      return readFor(home, home.apps.putLive(app, sound(content), Date.now()));
    },
    preflight: (home, { slug }) => preflight(home, appAt(home, slug)),
  },
  revisions: {
    list: (home, { slug, before }) => revisionPage(home, appAt(home, slug), before),
    note: (home, { slug, number, body }) => noteRevision(home, appAt(home, slug), number, body.note),
  },
  checks: {
    draft: (home, { slug }) => draftAnswer(home, appAt(home, slug)),
    scripts: (home, { slug }) => scriptsAnswer(home, appAt(home, slug)),
    write: (home, { slug, name, body }) => writeScript(home, appAt(home, slug), name, body),
    fromConversation: (home, { id, body: { reply } }) => {
      const [app, conversation] = conversationOfApp(home, id);
      if (reply !== undefined) replyOfAnyone(home, reply);
      const marksOf = (question: string) => home.comparisons.marks(app.id, question);
      return new Answered(201, checkFromConversation(home, app, conversation, reply, marksOf));
    },
    delete: (home, { slug, name }) => deleteScript(home, appAt(home, slug), name),
    setFolder: (home, { slug, body }) => {
      setScriptFolder(home, appAt(home, slug), body.folder);
      return scriptsAnswer(home, appAt(home, slug));
    },
    setSchedule: (home, { slug, body }) => {
      setSchedule(home, appAt(home, slug), body.schedule);
      return scriptsAnswer(home, appAt(home, slug));
    },
    runs: (home, { slug, before }) => listedRuns(home, appAt(home, slug), before),
    run: (home, { slug, body: { mostPrice = null, ...body } }) =>
      new Answered(201, runAnswer(home, beginRun(home, appAt(home, slug), body, mostPrice))),
    ahead: (home, { slug, body }) => runAhead(home, appAt(home, slug), body),
    read: (home, { id }) => runAnswer(home, runAt(home, id)),
    stop: async (home, { id }) => runAnswer(home, await stopRun(home, runAt(home, id))),
    resume: (home, { id }) => runAnswer(home, resumeRun(home, runAt(home, id))),
    more: (home, { id, body }) => runAnswer(home, addTrials(home, runAt(home, id), body)),
    deleteRun: (home, { id }) => deleteRun(home, runAt(home, id)),
    trial: (home, { id }) => trialAnswer(home, id),
  },
  guards: {
    caught: (home, { slug, ...filter }) => caughtAnswer(home, appAt(home, slug), filter),
    tryOn: (home, { slug, body }) => tryGuard(home, appAt(home, slug), body.guard, body.before ?? null),
    tryTexts: (home, { slug, body }) => tryGuardOn(home, appAt(home, slug), body.guard, body.texts),
  },
  retrieval: {
    read: (home, { slug }) => retrievalAnswer(home, appAt(home, slug)),
    add: (home, { slug, body }) => addQuestion(home, appAt(home, slug), body),
    fromMarks: (home, { slug }) => questionsFromMarks(home, appAt(home, slug)),
    propose: (home, { slug, body }) =>
      new Answered(202, jobAnswer(home, beginProposing(home, appAt(home, slug), body.count))),
    change: (home, { id, body }) => home.retrieval.setAsked(questionAt(home, id).id, body.isAsked),
    delete: (home, { id }) => home.retrieval.delete(questionAt(home, id).id),
    run: (home, { slug, body }) =>
      new Answered(202, jobAnswer(home, beginRetrieval(home, appAt(home, slug), body.cuts))),
  },
  judges: {
    read: (home, { slug }) => judgesAnswer(home, appAt(home, slug)),
    choose: (home, { slug, body }) => chooseJudge(home, appAt(home, slug), body.judge),
    replies: (home, { slug, rubric }) => repliesToJudge(home, appAt(home, slug), rubric),
    byHand: (home, { slug, body: { verdict, ...of } }) =>
      home.judges.judgeByHand({ app: appAt(home, slug).id, ...of }, verdict, Date.now()),
    ask: (home, { slug, body }) =>
      new Answered(202, jobAnswer(home, beginJudging(home, appAt(home, slug), body.rubric))),
  },
  comparisons: {
    list: (home, { slug }) => listedComparisons(home, appAt(home, slug)),
    make: async (home, { slug, body }) =>
      new Answered(201, comparisonAnswer(home, await makeComparison(home, appAt(home, slug), body))),
    read: (home, { id }) => comparisonAnswer(home, comparisonAt(home, id)),
    ask: (home, { id, body }) => comparisonAnswer(home, askLanes(home, comparisonAt(home, id), body.message)),
    stop: async (home, { id }) => comparisonAnswer(home, await stopLanes(home, comparisonAt(home, id))),
    name: (home, { id, body }) => home.comparisons.rename(comparisonAt(home, id).id, body.name),
    copy: async (home, { id, body }) =>
      new Answered(201, comparisonAnswer(home, await copyComparison(home, comparisonAt(home, id), body.name ?? null))),
    delete: (home, { id }) => deleteComparison(home, comparisonAt(home, id)),
    restore: (home, { id }) => comparisonAnswer(home, restoreComparison(home, id)),
    addLane: (home, { id, body }) => comparisonAnswer(home, addToComparison(home, comparisonAt(home, id), body)),
    changeLane: (home, { id, body }) => comparisonAnswer(home, changeLane(home, id, body)),
    leaveLane: (home, { id }) => comparisonAnswer(home, leaveLane(home, id)),
    takeLaneBack: (home, { id }) => comparisonAnswer(home, takeLaneBack(home, id)),
    stopLane: async (home, { id }) => comparisonAnswer(home, await stopLane(home, id)),
    goOn: async (home, { id }) => new Answered(201, await goOnFromLane(home, id)),
    ahead: (home, { slug, body }) => lanesAhead(home, appAt(home, slug), body),
    markFact: (home, { slug, body }) =>
      home.comparisons.mark({ app: appAt(home, slug).id, ...body }, body.isRight, Date.now()),
  },
  sets: {
    list: (home, { slug }) => listedSets(home, appAt(home, slug)),
    ahead: (home, { slug, body }) => {
      appAt(home, slug);
      return setAhead(home, body);
    },
    fromConversations: (home, { slug, body }) => rowsFrom(home, appAt(home, slug), body),
    make: (home, { slug, body: { mostPrice = null, ...body } }) =>
      new Answered(201, setAnswer(home, beginSet(home, appAt(home, slug), body, mostPrice))),
    read: (home, { id, after }) => setAnswer(home, setAt(home, id), after),
    stop: async (home, { id }) => setStanding(home, await stopSet(home, setAt(home, id))),
    resume: (home, { id }) => setStanding(home, resumeSet(home, setAt(home, id))),
    askFailedAgain: (home, { id }) => setStanding(home, askFailedAgain(home, setAt(home, id))),
    mark: (home, { id, body }) => setStanding(home, markAnswer(home, setAt(home, id), body)),
    hideNames: (home, { id, body }) => setStanding(home, hideNames(home, setAt(home, id), body.areHidden)),
    name: (home, { id, body }) => home.sets.rename(setAt(home, id).id, body.name),
    delete: (home, { id }) => deleteSet(home, setAt(home, id)),
    restore: (home, { id }) => setAnswer(home, restoreSet(home, id)),
    file: async (home, { id, as }) => {
      const { text, type } = await setFile(home, setAt(home, id), as);
      return written(text, type);
    },
  },
  duets: {
    list: (home, { slug }) => listedDuets(home, appAt(home, slug)),
    make: (home, { slug, body }) => new Answered(201, duetAnswer(home, beginDuet(home, appAt(home, slug), body))),
    read: (home, { id }) => duetAnswer(home, duetAt(home, id)),
    stop: async (home, { id }) => duetAnswer(home, await stopDuet(home, duetAt(home, id))),
    resume: (home, { id, body }) => duetAnswer(home, resumeDuet(home, duetAt(home, id), body)),
    putIn: (home, { id, body }) => duetAnswer(home, putIn(home, duetAt(home, id), body.to, body.text)),
    name: (home, { id, body }) => home.duets.rename(duetAt(home, id).id, body.name),
    delete: (home, { id }) => deleteDuet(home, duetAt(home, id)),
    restore: (home, { id }) => duetAnswer(home, restoreDuet(home, id)),
    file: (home, { id, as }) => {
      const { text, type } = duetFile(home, duetAt(home, id), as);
      return written(text, type);
    },
  },
  conversations: {
    list: (home, { caller, ...page }) => conversationPage(home, caller.app, { ...caller, ...askerOf(caller) }, page),
    read: (home, { caller, id, ...page }) =>
      callerLine(home, conversationAt(home, caller.app, askerOf(caller), id), page, caller.told),
    reach: (home, { caller, id }) =>
      reachAnswer(home, caller.app, conversationAt(home, caller.app, askerOf(caller), id), caller),
    show: (home, { caller, id, body }) =>
      showLine(home, conversationAt(home, caller.app, askerOf(caller), id), body.message),
    name: (home, { caller, id, body }) =>
      home.marks.setVisitorTitle(conversationAt(home, caller.app, askerOf(caller), id).id, body.title),
    delete: (home, { caller, id }) =>
      deleteConversation(home, conversationAt(home, caller.app, askerOf(caller), id).id, "for good"),
  },
  benchConversations: {
    list: (home, { slug, request, ...filter }) => historyPage(home, appAt(home, slug), filter),
    count: (home, { slug, request, ...filter }) => home.reader.call("counted", { app: appAt(home, slug).id, filter }),
    choices: (home, { slug }) => home.reader.call("choices", { app: appAt(home, slug).id }),
    find: (home, { id, ...words }) => placesAnswer(home, conversationOfApp(home, id)[1], words),
    read: (home, { id, ...where }) => benchLine(home, ...conversationOfApp(home, id), where),
    outline: async (home, { id }) => written(await outlineText(home, conversationOfApp(home, id)[1])),
    turns: (home, { id, ...which }) => benchTurns(home, ...conversationOfApp(home, id), which),
    found: async (home, { slug, request, ...filter }) => ({
      ids: await home.reader.call("ids", { app: appAt(home, slug).id, filter, most: mostChosen }),
    }),
    hideAll: (home, { body }) => deleteConversations(home, body.ids),
    restoreAll: (home, { body }) => restoreConversations(home, body.ids),
    hide: (home, { id }) => deleteConversation(home, conversationOfApp(home, id)[1].id, "restorable"),
    restore: (home, { id }) => restoreConversation(home, id),
  },
  benchMarks: {
    write: (home, { id, body }) => writeOn(home, conversationOfApp(home, id)[1], body),
    rate: (home, { id, body }) => rateReply(home, replyOfAnyone(home, id).id, "bench", body.rating),
  },
  marks: {
    rate: (home, { caller, id, body }) =>
      rateReply(home, replyAt(home, caller.app, askerOf(caller), id).id, "visitor", body.rating),
  },
  branches: {
    show: (home, { id }) => showBranch(home, id),
    name: (home, { id, body }) => nameBranch(home, id, body.name),
    delete: (home, { id }) => deleteBranch(home, id),
    write: (home, { id, body }) => writeTake(home, id, body.text, body.corrects),
    clear: (home, { id, ...by }) => setClear(home, id, true, modelIn(by)),
    unclear: (home, { id, ...by }) => setClear(home, id, false, modelIn(by)),
    pin: (home, { id }) => setPin(home, id, true),
    unpin: (home, { id }) => setPin(home, id, false),
  },
  summaries: {
    make: (home, { id }) => new Answered(202, sumUpAnew(home, ...conversationOfApp(home, id))),
    stop: (home, { id }) => home.summarising.stop(conversationOfApp(home, id)[1].id),
    correct: (home, { id, body }) => correctSummary(home, id, body.text),
  },
  replies: {
    ask: askForReply,
    read: readReply,
    stop: (home, { caller, id }) => stoppedReply(home, replyAt(home, caller.app, askerOf(caller), id).id),
    sayToCall: (home, { caller, id, call, body }) =>
      sayToCall(home, { reply: replyAt(home, caller.app, askerOf(caller), id).id, call }, body, "visitor"),
    describe: (home, { slug, version: as, request }) => {
      const app = appAt(home, slug);
      return openApiOf({ ...app, ...needsOf(home, app), base: doorOf(request.headers).origin, version }, as);
    },
  },
  benchReplies: {
    ask: (home, { slug, begins, body }) =>
      new Answered(202, ask(home, appAt(home, slug), { ...bench, begins }, body), {
        "preference-applied": "respond-async",
      }),
    stop: (home, { id }) => stoppedReply(home, replyOfAnyone(home, id).id),
    sayToCall: (home, { id, call, body }) =>
      sayToCall(home, { reply: replyOfAnyone(home, id).id, call }, body, "bench"),
    arrived: (home, { id, body }) => home.dispatches.setReader(id, body.arrivals),
    stream: (home, { request }) => benchStream(home, lastEventId(request)),
  },
  common: { chat: askCommon, models: commonModels, model: commonModel },
  visitors: {
    open: openVisitor,
    badge: giveBadge,
    style: (home, { slug }) => styleOf(home, appAt(home, slug)).text,
    forget: forgetCaller,
  },
  serving: {
    read: (home, { slug, request }) => servingAnswer(home, appAt(home, slug), talkBase(request)),
    setAccess: (home, { slug, body, request }) =>
      servingAnswer(home, home.apps.setAccess(appAt(home, slug), body.access), talkBase(request)),
    setLook: (home, { slug, body, request }) =>
      servingAnswer(home, home.apps.setLook(appAt(home, slug), body.look), talkBase(request)),
    setPreview: (home, { slug, body, request }) =>
      servingAnswer(home, home.apps.preview(appAt(home, slug), sound(body.content), Date.now()), talkBase(request)),
    makeToken: (home, { slug, body }) => {
      const { token, text } = home.tokens.make(appAt(home, slug).id, body.kind, body.name, Date.now());
      return { token: tokenAnswer(token), text };
    },
    revokeToken: (home, { slug, id }) => {
      if (!home.tokens.revoke(appAt(home, slug).id, id, Date.now())) refuse("not-found", `There is no token ${id}.`);
      home.revocations.tell(id);
    },
    makeFrontEnd: (home, { slug, request }) => frontEnd(home, appAt(home, slug), talkBase(request)),
    calls: (home, { slug, only = "all", before }) => callsAnswer(home, appAt(home, slug), only, before),
    callFile: (home, { id }) => callFile(home, id),
  },
  sources: {
    list: (home, { slug }) => {
      const app = appAt(home, slug);
      const all = home.sources.ofApp(app.id).map((source) => sourceAnswer(home, source, app.draft));
      return { sources: all, folders: home.sources.folders(app.id), vectors: vectorsAnswer(home, app) };
    },
    addFolder: (home, { slug, body }) => {
      const app = appAt(home, slug);
      const { sources, problems } = addFolder(home, app.id, body.path);
      home.folderWatch.watch(app.id, home.sources.folders(app.id));
      wantReading(home, app);
      return new Answered(201, { sources: sources.map((source) => sourceAnswer(home, source, app.draft)), problems });
    },
    leaveFolder: (home, { slug, path }) => {
      const { id } = appAt(home, slug);
      home.sources.deleteFolder(id, path);
      home.folderWatch.watch(id, home.sources.folders(id));
    },
    addFile: addSourceFile,
    addAddress: async (home, { slug, body }) => {
      const app = appAt(home, slug);
      const source = await addAddress(home, app.id, body);
      wantReading(home, app);
      const job = body.below ? wantPages(home, app, source, { ...body, deep: body.below }) : undefined;
      return new Answered(201, { ...sourceAnswer(home, source, app.draft), job });
    },
    find: (home, { slug, question }) => foundAnswer(home, appAt(home, slug), question),
    read: (home, { slug }) => wantReading(home, appAt(home, slug), true),
    makeVectors: (home, { slug, body }) => {
      const app = appAt(home, slug);
      const of = app.draft.sources?.meaning;
      if (!of)
        refuse("misconfigured", `${app.name} looks for nothing by meaning.`, { advice: "Choose a model first." });
      if (body.anew) makeAnew(home, app, of);
      else wantVectors(home, app);
    },
    change: (home, { id, body }) => {
      const source = renameSource(home, sourceAt(home, id), body);
      return sourceAnswer(home, source, ownerOf(home, source).draft);
    },
    digest: (home, { id, body }) => {
      const source = sourceAt(home, id);
      const app = home.apps.byId(source.app) ?? refuse("not-found", "The app was deleted.");
      return new Answered(202, jobAnswer(home, beginDigest(home, app, id, body.within)));
    },
    lookAgain: async (home, { id }) => {
      const source = await lookAgain(home, sourceAt(home, id));
      const app = ownerOf(home, source);
      wantReading(home, app);
      return sourceAnswer(home, source, app.draft);
    },
    text: (home, { id, request, ...where }) => {
      const source = sourceAt(home, id);
      return documentText(home, source, ownerOf(home, source).draft, where);
    },
    changes: (home, { id, from }) => changesSince(home, sourceAt(home, id), from),
    fault: (home, { id, body }) => faultAnswer(home, replyOfAnyone(home, id), sourceAt(home, body.source), body.at),
    delete: (home, { id }) => home.sources.delete(sourceAt(home, id).id),
  },
  secrets: {
    list: (home, { slug }) => listedSecrets(home, appAt(home, slug)),
    give: (home, { slug, name, body }) => giveSecret(home, appAt(home, slug), name, body),
    take: (home, { slug, name }) => takeSecret(home, appAt(home, slug), name),
  },
  recordings: {
    kept: (home, { slug }) => keptAnswer(home, appAt(home, slug)),
    file: (home, { slug }) => written(recordingsFile(home, appAt(home, slug)), "application/jsonl"),
    put: (home, { slug, body }) => putRecordings(home, appAt(home, slug), body.text),
    delete: (home, { slug }) => void home.recordings.replace(appAt(home, slug).id, []),
  },
  exports: { history: exportHistory },
  documents: { handIn: handInOwnFile, handInAddress: handInOwnAddress, list: listOwn, forget: forgetOwn },
  files: { keep: keepFile, read: readFile },
  benchFiles: { keep: keepBenchFile, read: readBenchFile },
  jobs: {
    list: (home) => ({ jobs: home.jobs.latest().map((job) => jobAnswer(home, job)) }),
    read: (home, { id }) => jobAnswer(home, jobAt(home, id)),
    stop: async (home, { id }) => {
      await home.runner.stop(jobAt(home, id).id);
      return jobAnswer(home, jobAt(home, id));
    },
    estimate: (home, { id, through }) => estimateSayingAgain(home, ...conversationOfApp(home, id), through),
    sayAgain: (home, { id, body }) => jobAnswer(home, beginSayingAgain(home, ...conversationOfApp(home, id), body)),
    beginImport: (home, { slug, body }) => jobAnswer(home, beginImport(home, appAt(home, slug), body)),
    sendPart: async (home, { id, from, request }) => jobAnswer(home, await takePart(home, id, from, request)),
    store: (home, { id }) => jobAnswer(home, storeImport(home, id)),
  },
  dispatches: {
    ofReply: (home, { id }) => ({ dispatches: dispatchesOf(home, id), kept: home.dispatches.sizes() }),
    ofMaking: (home, { id }) => ({ dispatches: dispatchesOfMaking(home, id), kept: home.dispatches.sizes() }),
    ofSummary: (home, { id }) => ({ dispatches: dispatchesOfSummary(home, id), kept: home.dispatches.sizes() }),
    again: (home, { id, body, request }) => sendAgain(home, id, body, request.signal),
    thin: async (home, { body }) => ({ thinned: await thin(home, Date.now() - body.olderThanDays * day) }),
  },
  providers: {
    list: (home) => ({ providers: home.providers.all().map((provider) => providerAnswer(home, provider)) }),
    wire: async (home, { body }) => providerAnswer(home, wireProvider(home, body, await samplesOf(body))),
    offers: async (home) => ({ offers: await offeredProviders(home) }),
    change: (home, { id, body }) => providerAnswer(home, changeProvider(home, id, body)),
    delete: (home, { id }) => deleteProvider(home, id),
    copy: (home, { id, body }) => providerAnswer(home, copyProvider(home, id, body.name)),
    cases: (home, { id }) => ({ cases: home.providers.cases(providerAt(home, id).id) }),
    setCases: (home, { id, body }) => home.providers.setCases(providerAt(home, id).id, body.cases),
    standing: (home, { id }) => standingOf(home, providerAt(home, id)),
    switchOn: (home, { id, body }) => switchOn(home, providerAt(home, id), body.model),
    lastAnswer: (home, { id }) => ({ last: lastAnswer(home, providerAt(home, id)) }),
    try: (home, { id, body, request }) => tryCall(home, providerAt(home, id), body, request.signal),
    probe: (home, { id, body, request }) =>
      linesOf(request, (signal) => probe(home, providerAt(home, id), body.model, signal)),
    fault: async (home, { id }) => faultOf(providerAt(home, id)),
    setFault: (home, { id, body }) => setFault(providerAt(home, id), body),
    clearFault: (home, { id }) => setFault(providerAt(home, id), null),
    callPasted: (_home, { body, request }) => pastedCall(body, request.signal),
  },
});

# The desk in a browser, by mouse and keyboard: from a file to a plan, scores and a report, with a kill in the middle.

in_json <- function(text) as.character(jsonlite::toJSON(text, auto_unbox = TRUE))

drag <- function(w, from, to) {
  js(w, sprintf("(function () { var d = new DataTransfer(); function fire(s, t) { document.querySelector(s).dispatchEvent(new DragEvent(t,
    {bubbles: true, cancelable: true, dataTransfer: d})); } fire(%s, 'dragstart'); fire(%s, 'dragover'); fire(%s, 'drop'); })()", in_json(from),
    in_json(to), in_json(to)))
}

choose <- function(w, selector, value) {
  wait_for(w, sprintf("document.querySelector(%s)", in_json(selector)))
  js(w, sprintf("(function () { var f = document.querySelector(%s); f.value = %s; f.dispatchEvent(new Event('change', {bubbles: true})); })()",
    in_json(selector), in_json(value)))
}

said <- function(w, text) wait_for(w, sprintf("document.getElementById('said').textContent.includes(%s)", in_json(text)))
shows <- function(w, text) wait_for(w, sprintf("document.querySelector('.desk-place').textContent.includes(%s)", in_json(text)))
figures <- function(w, scale) text_of(w, sprintf("[data-sheet=%s] .figures", scale))
undone <- function(w) {
  click(w, "[data-key=undo]")
  said(w, "Undone")
}

# What an automated check of accessibility finds; nothing it should.
violations <- function(w) {
  path <- Sys.glob(file.path(c(test_path("..", ".."), getwd()), ".checks/node_modules/axe-core/axe.min.js"))[1]
  if (is.na(path)) {
    if (identical(Sys.getenv("SCALEWORT_CHECKS"), "required")) stop("axe-core is not there: tools/setup.R checks brings it.")
    return(character())
  }
  js(w, paste(readLines(path, warn = FALSE), collapse = "\n"))
  unlist(js(w, "axe.run().then(r => r.violations.map(v => v.id + ' ' + v.nodes[0].html))"))
}

quick_plan <- function(folder, ...) {
  file.copy(system.file("extdata", c("plotholders.csv", "plotholders-draft-codebook.csv"), package = "scalewort"), folder)
  path <- file.path(folder, "plan.yml")
  writeLines(c("data: plotholders.csv", "codebook: plotholders-draft-codebook.csv", "id: id", "group: district", "dif: false", "stability: false",
    "retention: {replicates: 20}", "validity: {replicates: 20}", ...), path)
  path
}

test_that("the whole job at the desk: every click a line of the plan, which runs to the same tables", {
  skip_without_browser()
  folder <- withr::local_tempdir()
  plan <- quick_plan(folder)
  desk <- desk_process(plan, folder = folder)
  withr::defer(desk$process$kill())
  stranger <- desk_window(sub("[?].*$", "", desk$address))
  Sys.sleep(1)
  expect_match(js(stranger, "document.body.innerText"), "^403")
  w <- desk_window(desk$address)
  wait_for(w, "document.querySelectorAll('.strip').length == 22")
  expect_match(figures(w, "kinship"), "alpha .329")

  # By keyboard alone: down to kin3, turned, the focus kept; undone and done again.
  js(w, "document.querySelector('[data-item=kin2]').focus()")
  press(w, "ArrowDown")
  press(w, "t", text = "t")
  wait_for(w, "document.querySelector('[data-sheet=kinship] .figures').textContent.includes('.329 \u2192 .780')")
  expect_equal(js(w, "document.activeElement.dataset.item"), "kin3")
  press(w, "z", modifiers = 2)
  said(w, "Undone")
  press(w, "y", modifiers = 2)
  said(w, "Done again")

  # Several at once; a pair of the heat map.
  js(w, "document.querySelector('[data-item=soil1]').focus()")
  press(w, "ArrowDown", modifiers = 8)
  press(w, "k", text = "k")
  said(w, "soil1 and soil2 kept")
  go_to(w, "keying")
  wait_for(w, "document.querySelector('.heat img')")
  pair <- js(w, "(function () { var i = document.querySelector('.heat img'), s = JSON.parse(i.closest('.heat').dataset.span),
    r = i.getBoundingClientRect(), x = s.items.indexOf('calm1') + 1, y = s.items.length - s.items.indexOf('kin3');
    i.dispatchEvent(new MouseEvent('click', {bubbles: true,
      clientX: r.left + r.width * (s.left + (x - s.low) / (s.high - s.low) * (s.right - s.left)),
      clientY: r.top + r.height * (s.top + (s.above - y) / (s.above - s.below) * (s.bottom - s.top))}));
    return document.getElementById('pair').textContent; })()")
  expect_match(pair, "^calm1 \u2194 kin3: 0[.]21 ")
  js(w, "document.querySelectorAll('#pair button')[1].click()")
  said(w, "kin3 turned")
  undone(w)

  # By mouse: a foreign item spoils a subscale, and is taken out again; several at once; someone careless set aside.
  drag(w, "[data-item=calm6]", "[data-sheet=craft]")
  said(w, "calm6 moved to craft")
  wait_for(w, "document.querySelectorAll('[data-sheet=craft] .strip').length == 7")
  expect_match(figures(w, "craft"), "^alpha .813 \u2192 .7")
  undone(w)
  drag(w, "[data-item=calm6]", "[data-sheet=aside]")
  said(w, "calm6 set aside")
  wait_for(w, "document.querySelectorAll('[data-sheet=aside] .strip').length == 1")
  undone(w)
  go_to(w, "answering")
  wait_done(w)
  click(w, "[data-key='set_aside-P902']")
  said(w, "Case P902 set aside")
  go_to(w, "person/P902")
  shows(w, "Case P902")

  # How many factors: two numbers beside each other, the scree clicked, a rotation, sent on.
  go_to(w, "retention")
  wait_done(w)
  wait_for(w, "document.querySelector('.scree img')")
  js(w, "(function () { var i = document.querySelector('.scree img'), s = JSON.parse(i.closest('.scree').dataset.span), r = i.getBoundingClientRect();
    var x = r.left + r.width * (s.left + (3 - s.low) / (s.high - s.low) * (s.right - s.left));
    i.dispatchEvent(new MouseEvent('click', {bubbles: true, clientX: x, clientY: r.top + 60})); })()")
  said(w, "Factors: factors 3")
  undone(w)
  choose(w, "#beside-one", "2")
  click(w, "[data-beside]")
  wait_for(w, "document.querySelectorAll('.beside table').length >= 2")
  go_to(w, "exploration")
  wait_done(w)
  choose(w, "#set-exploration-hide", "0.4")
  said(w, "Factors: hide 0.4")
  choose(w, "#set-exploration-rotation", "varimax")
  said(w, "rotation varimax")
  undone(w)
  click(w, "[data-key=set-structure-exploration]")
  said(w, "structure exploration")

  # The structure: freed from the list, by dragging, by hand; the fits so far, and back.
  go_to(w, "confirmation")
  wait_done(w)
  expect_match(text_of(w, ".answer"), "CFI .9")
  click(w, ".free button")
  said(w, "on craft, too")
  wait_done(w)
  js(w, "document.getElementById('drop-means').value = 'pair'")
  drag(w, "[data-chip=craft5]", "[data-chip=craft6]")
  said(w, "craft5 and craft6 share something")
  wait_done(w)
  js(w, "document.getElementById('drop-means').value = 'shift'")
  drag(w, "[data-chip=soil5]", "[data-factor=calm]")
  said(w, "soil5 to factor calm")
  wait_done(w)
  js(w, "document.getElementById('higher-to').value = 'all'")
  click(w, "[data-key=amend-higher]")
  said(w, "factor above: all")
  wait_for(w, "Array.from(document.querySelectorAll('.station-acts tbody td')).some(d => d.textContent.trim() == 'factor above: all')", 90)
  fits <- js(w, "Array.from(document.querySelectorAll('.station-acts tbody tr')).map(r => r.textContent).join('\\n')")
  expect_match(fits, "kin5 on craft, too.*craft5 and craft6 share something.*soil5 to factor calm.*factor above: all")
  index <- length(core("read_plan")(plan, decided = FALSE)$decisions) - 2
  click(w, sprintf("[data-key=back_to-%d]", index))
  said(w, "Gone back")
  expect_equal(violations(w), NULL)

  # A kill in the middle: opened again it is as it was.
  before <- core("read_plan")(plan, decided = FALSE)
  desk$process$kill()
  desk <- desk_process(plan, folder = folder)
  w <- desk_window(desk$address)
  wait_for(w, "document.querySelectorAll('.strip').length == 22")
  expect_match(text_of(w, "[data-key=to-record]"), paste0("(", length(before$decisions), ")"), fixed = TRUE)
  expect_false(js(w, "document.querySelector('[data-key=redo]').disabled"))
  expect_equal(core("read_plan")(plan, decided = FALSE), before)

  # Another window on the same plan is told so.
  second <- desk_window(desk$address)
  wait_for(second, "document.querySelector('.desk-head').textContent.includes('another window')")
  second$window$close()

  # Groups, scores, files, report.
  go_to(w, "invariance")
  wait_done(w)
  click(w, "[data-key^='set-invariance-release']")
  said(w, "release soil5")
  go_to(w, "scores")
  choose(w, "#set-scores-form", "t")
  said(w, "form t")
  choose(w, "#set-scores-groups", "3")
  said(w, "groups 3")
  go_to(w, "write")
  for (form in c("xlsx", "sav", "parquet")) {
    click(w, sprintf("[data-key=write-%s]", form))
    Sys.sleep(.6)
  }
  wait_done(w)
  click(w, "[data-key=write]")
  said(w, "Everything is written")
  results <- file.path(folder, "results")
  expect_true(all(file.exists(file.path(results, paste0("scores.", c("csv", "xlsx", "sav", "parquet"))))))
  shows(w, "report.html")
  js(w, "document.querySelector('[data-report]').addEventListener('click', e => e.preventDefault())")
  click(w, "[data-report]")
  expect_match(js(w, "fetch(document.querySelector('[data-report]').href).then(r => r.text())"), "What to know first")
  expect_equal(violations(w), NULL)

  # Tables as a spreadsheet takes them, figures as SVG.
  go_to(w, "reliability")
  wait_done(w)
  click(w, ".give [data-copy=table]")
  expect_match(js(w, "window.deskCopied"), "subscale\titems\tn\talpha", fixed = TRUE)
  js(w, "document.querySelector('[data-svg]').addEventListener('click', e => e.preventDefault())")
  click(w, "[data-svg]")
  expect_match(js(w, "fetch(document.querySelector('[data-svg]').href).then(r => r.text())"), "<svg")
  go_to(w, "item/kin3")
  shows(w, "Goes most with")
  expect_equal(violations(w), NULL)
  go_to(w, "record")
  shows(w, "kin3 turned")
  expect_match(text_of(w, "#as-plan pre"), "do: turn")
  expect_equal(violations(w), NULL)
  go_to(w, "codebook")
  shows(w, "What each column is")
  expect_equal(violations(w), NULL)
  own <- grepl(paste0("^(", sub("[?].*$", "", desk$address), "|data:|blob:)"), w$seen$urls)
  expect_equal(w$seen$urls[!own], character())
  desk$process$kill()

  # The plan alone, elsewhere: the same tables, byte for byte.
  copy <- withr::local_tempdir()
  file.copy(file.path(folder, c("plan.yml", "plotholders.csv", "plotholders-draft-codebook.csv")), copy)
  expect_equal(run_cli("run", file.path(copy, "plan.yml"), "--quiet")$status, 0)
  tables <- list.files(results, "[.]csv$")
  expect_gt(length(tables), 8)
  expect_equal(unname(tools::md5sum(file.path(copy, "results", tables))), unname(tools::md5sum(file.path(results, tables))))
})

test_that("a file is brought in, its codebook corrected in its cells; a knowledge test; German", {
  skip_without_browser()
  folder <- withr::local_tempdir()
  survey <- sw_demo("plantcare")
  data <- as.data.frame(core("source_everyone")(survey))
  upload <- file.path(withr::local_tempdir(), "plants.csv")
  data.table::fwrite(data, upload)
  desk <- desk_process(folder = folder)
  withr::defer(desk$process$kill())
  w <- desk_window(desk$address)
  shows(w, "Bring in a file of answers")
  expect_equal(violations(w), NULL)
  root <- w$window$DOM$getDocument()$root$nodeId
  field <- w$window$DOM$querySelector(root, "#file")$nodeId
  w$window$DOM$setFileInputFiles(files = list(upload), nodeId = field)
  shows(w, "What each column is")
  # Its key: nothing can be analysed without.
  key <- stats::na.omit(survey$codebook$items[c("item", "answer")])
  js(w, sprintf("(function (key) { document.querySelectorAll('#codebook tbody tr').forEach(function (row) {
    var right = key[row.cells[0].textContent.trim()]; if (!right) return;
    row.querySelector('[data-cell=answer]').value = right; row.querySelector('[data-cell=role]').value = 'scored'; }); })(%s)",
    jsonlite::toJSON(as.list(stats::setNames(key$answer, key$item)), auto_unbox = TRUE)))
  click(w, "[data-codebook]")
  said(w, "saved")
  wait_for(w, "document.querySelectorAll('.strip').length > 5")
  js(w, "document.querySelector('[data-cell=role][data-row=\"1\"]').closest('tr').querySelector('[data-cell=lowest]').value = 'low'")
  click(w, "[data-codebook]")
  wait_for(w, "document.querySelector('td.lowest.wrong .fault')")
  js(w, "document.querySelector('td.lowest.wrong input').value = ''")
  js(w, "document.querySelector('[data-cell=wording][data-row=\"2\"]').value = 'Which soil does it want?'")
  click(w, "[data-codebook]")
  said(w, "saved")
  expect_true(any(grepl("Which soil does it want?", readLines(file.path(folder, "plants-codebook.csv")), fixed = TRUE)))
  expect_equal(unname(tools::md5sum(file.path(folder, "plants.csv"))), unname(tools::md5sum(upload)))
  desk$process$kill()

  # The demo of a knowledge test with its key, in German.
  plan <- core("demo_plan")("plantcare", folder)
  cat("language: de\nstability: false\ndif: false\nretention: {replicates: 20}\nvalidity: false\n", file = plan, append = TRUE)
  port <- httpuv::randomPort(host = "127.0.0.1")
  desk <- desk_process("--demo", "plantcare", "--out", folder, "--port", port, folder = folder)
  expect_match(desk$address, paste0("^http://127.0.0.1:", port, "/[?]token="))
  w <- desk_window(desk$address)
  wait_for(w, "document.querySelectorAll('.strip').length > 5")
  go_to(w, "option_curves")
  wait_done(w)
  wait_for(w, "document.querySelector('.answer')")
  expect_match(text_of(w, ".desk-path"), "Polung")
  expect_match(text_of(w, ".tools"), "Beiseite")
  expect_match(text_of(w, ".desk-place"), "Optionen")
  expect_equal(js(w, "document.documentElement.lang"), "de")
  expect_equal(violations(w), NULL)
})

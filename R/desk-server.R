# The server's part: what the page asks for, what an act does, and when the work behind is looked at.

desk_server <- function(desk, token, most = 50) {
  force(desk)
  function(input, output, session) {
    asked <- shiny::isolate(session$clientData$url_search)
    if (!has_token(asked, token) || !is_own_page(session$request)) {
      session$close()
      return(invisible())
    }
    words <- desk_words(desk)
    if (!is.null(desk$session)) {
      second_window(input, output, session, desk, words)
      return(invisible())
    }
    desk$session <- session
    session$onSessionEnded(function() {
      if (identical(desk$session, session)) desk$session <- NULL
    })
    serve_desk(input, output, session, desk, most)
  }
}

# The token in the part of an address after ?, which may be anything.
has_token <- function(query, token) {
  asked <- tryCatch(shiny::parseQueryString(if (is.null(query)) "" else query)$token, error = function(e) NULL)
  identical(asked, token)
}

# A page of another origin may not talk to this one, token or not.
is_own_page <- function(request) {
  origin <- request$HTTP_ORIGIN
  is.null(origin) || identical(sub("^https?://", "", origin), request$HTTP_HOST)
}

# The words of the page; `all` has those of the report, for sentences.
desk_words <- function(desk) {
  all <- report_words(desk_language(desk))
  c(all$desk, list(all = all[setdiff(names(all), "desk")]))
}

# Somebody looks at the same plan in another window: it is said, and the work can be taken over.
second_window <- function(input, output, session, desk, words) {
  output$head <- shiny::renderUI(htmltools::tagList(htmltools::tags$h1(words$open_elsewhere), htmltools::tags$p(words$one_window)))
  output$place <- shiny::renderUI(act_button(words$work_here, "take_over"))
  shiny::observeEvent(input$act, {
    if (identical(input$act$act, "take_over")) {
      other <- desk$session
      desk$session <- NULL
      if (!is.null(other)) other$close()
      session$reload()
    }
  })
}

serve_desk <- function(input, output, session, desk, most) {
  turn <- shiny::reactiveVal(0)
  settled <- shiny::reactiveVal(0)
  state <- new.env()
  state$seen <- 0
  state$work <- FALSE
  again <- function(work = FALSE) {
    state$work <- state$work || work
    if (work) working("planned")
    session$sendCustomMessage("busy", TRUE)
    turn(shiny::isolate(turn()) + 1)
  }
  # The questionnaire and its numbers first; figures, which take longer to draw, and new work when these are on the page.
  shiny::observe({
    if (turn() != state$seen) {
      state$seen <- turn()
      shiny::invalidateLater(40, session)
    } else {
      settled(state$seen)
      session$onFlushed(function() session$sendCustomMessage("busy", FALSE), once = TRUE)
      if (state$work) begin_work(desk, working)
      state$work <- FALSE
    }
  })
  working <- shiny::reactiveVal("done")
  register_files(session, desk)
  found <- shiny::reactive({
    turn()
    if (is.null(desk$path)) NULL else look_again(desk)
  })
  words <- shiny::reactive({
    turn()
    desk_words(desk)
  })
  if (!is.null(desk$path)) again(work = TRUE)
  shiny::observe(watch_work(desk, working, again, session))
  place <- shiny::reactive(if (is.null(input$place) || !nzchar(input$place)) "screening" else input$place)
  output$head <- shiny::renderUI(if (is.null(found())) htmltools::tags$h1("Scalewort") else desk_head(desk, found(), words(), working()))
  output$path <- shiny::renderUI(if (!is.null(found())) desk_path(desk, found(), words(), place()))
  # Names and wordings may hold signs that turn the direction of reading.
  output$sheet <- shiny::renderUI(if (!is.null(found())) htmltools::HTML(visible_directions(visible_controls(as.character(
    in_language(desk_language(desk), desk_sheet(desk, found(), words())))))))
  # Renewed only where it differs, so that what is being typed is not lost when a step behind ends.
  shown <- shiny::reactiveVal("")
  shiny::observe({
    settled()
    where <- place()
    content <- tryCatch({
      have <- shiny::isolate(found())
      own <- shiny::isolate(words())
      if (is.null(have)) desk_bring(own, most) else reading_in(desk_language(desk), desk_place(where, desk, have, own))
    }, error = function(e) htmltools::tags$p(class = "trouble", role = "alert", cli::ansi_strip(conditionMessage(e))))
    shown(visible_directions(visible_controls(as.character(htmltools::tags$div(`data-place` = where, content)))))
  })
  output$place <- shiny::renderUI(htmltools::HTML(shown()))
  shiny::observeEvent(input$act, {
    # Whatever goes wrong is said, and the page stays.
    done <- tryCatch(reading_in(desk_language(desk), do_act(input$act, desk, words())), error = function(e) {
      list(said = cli::ansi_strip(conditionMessage(e)), changed = FALSE, stopped = FALSE)
    })
    if (done$stopped) working("done")
    if (length(done$said) > 0) session$sendCustomMessage("said", done$said)
    again(done$changed)
  })
  shiny::observeEvent(input$codebook, {
    said <- reading_in(desk_language(desk), save_codebook(desk, jsonlite::fromJSON(input$codebook, simplifyVector = FALSE)))
    session$sendCustomMessage("said", if (is.null(said)) words()$saved else said)
    again(is.null(said))
  })
  shiny::observeEvent(input$file, {
    said <- bring_in(desk, input$file$datapath, input$file$name)
    if (is.null(said)) session$sendCustomMessage("go", "codebook") else session$sendCustomMessage("said", said)
    again(is.null(said))
  })
}

# What a place shows.
desk_place <- function(place, desk, found, words) {
  parts <- strsplit(place, "/", fixed = TRUE)[[1]]
  name <- utils::URLdecode(paste(parts[-1], collapse = "/"))
  if (parts[1] %in% desk_stations) {
    return(desk_station(parts[1], desk, found, words))
  }
  switch(parts[1],
    item = desk_item(name, desk, found, words), person = desk_person(name, desk, found, words), record = desk_record(desk, found, words),
    write = desk_write(desk, found, words), codebook = desk_codebook(desk, words),
    beside = desk_beside(numbers_named(name, words), desk, found, words), desk_station("screening", desk, found, words))
}

# "3-4" as numbers of factors.
numbers_named <- function(name, words) {
  if (!grepl("^[1-9][0-9]?-[1-9][0-9]?$", name)) stop_input(words$no_such_place)
  as.integer(strsplit(name, "-", fixed = TRUE)[[1]])
}

# The results as they stand; when all are there their figures are kept for the record.
look_again <- function(desk) {
  found <- desk_results(desk)
  folder <- desk_ready(desk)$store$folder
  desk$effects <- read_effects(folder)
  figures <- desk_figures(found$have)
  figures <- figures[is.finite(figures)]
  known <- desk$effects[[decisions_key(desk$raw$decisions)]]
  if (length(found$pending) == 0 && !identical(names(known), names(figures))) {
    # Where they cannot be kept, the record does without.
    tryCatch(keep_figures(folder, desk$raw$decisions, figures), scalewort_error = function(e) NULL)
    desk$effects <- read_effects(folder)
  }
  found
}

begin_work <- function(desk, working) {
  start_work(desk, isTRUE(desk$to_write))
  desk$to_write <- FALSE
  working("running")
}

# Looks at the work behind, a few times a second while it runs; the page follows each step that ends.
watch_work <- function(desk, working, again, session) {
  if (working() != "running") {
    return(invisible())
  }
  shiny::invalidateLater(300, session)
  before <- desk$doing
  state <- work_state(desk)
  if (state != "running" || !identical(before, desk$doing)) shiny::isolate(again())
  if (state != "running") {
    working("done")
    if (state == "failed") session$sendCustomMessage("said", desk$trouble)
    if (state == "done" && desk$writes) session$sendCustomMessage("said", desk_words(desk)$written_said)
  }
}

# Does what was asked: list(said: words for whoever listens; changed: is there new work; stopped: is there none).
do_act <- function(act, desk, words) {
  beside <- list(demo = open_act, open = open_act, stop = stop_act, write = write_act, settle = codebook_act, order = codebook_act)[[act$act]]
  if (is.null(beside)) plan_act(act, desk, words) else beside(act, desk, words)
}

act_outcome <- function(said = NULL, changed = FALSE, stopped = FALSE) list(said = said, changed = changed, stopped = stopped)

open_act <- function(act, desk, words) {
  if (act$act == "open" && !act$name %in% opened_last()) stop_input(words$no_such_place)
  take_plan(desk, if (act$act == "demo") demo_plan(act$name, desk$folder) else act$name)
  act_outcome(changed = TRUE)
}

stop_act <- function(act, desk, words) {
  stop_work(desk)
  act_outcome(words$stopped, stopped = TRUE)
}

write_act <- function(act, desk, words) {
  desk$to_write <- TRUE
  act_outcome(changed = TRUE)
}

# That a guess is right makes no new work.
codebook_act <- function(act, desk, words) {
  refused <- change_codebook(desk, act)
  if (!is.null(refused)) act_outcome(refused) else if (act$act == "settle") act_outcome(words$settled) else act_outcome(words$saved, changed = TRUE)
}

# A decision, or one taken back.
plan_act <- function(act, desk, words) {
  desk$before <- desk_figures(desk_results(desk)$have)
  former <- desk$raw
  back <- act$act %in% c("undo", "redo", "back_to", "reason")
  done <- change_plan(desk, function(raw) changed_by(raw, act, words), back)
  beside <- c(if (done$reread) if (back) words$changed_elsewhere_back else words$changed_elsewhere,
    if (!is.null(done$copy)) fill_in(words$written_whole, copy = basename(done$copy)))
  if (!is.null(done$refused)) {
    return(act_outcome(paste(c(done$refused, beside), collapse = " "), changed = done$reread))
  }
  if (identical(former, desk$raw) || (done$reread && back)) {
    return(act_outcome(if (length(beside) > 0) paste(beside, collapse = " "), changed = done$reread))
  }
  said <- if (act$act %in% c("undo", "redo", "back_to")) words$done[[act$act]] else if (act$act != "reason")
    paste0(decision_words(utils::tail(desk$raw$decisions, 1)[[1]], words), asked_reason(desk$raw, words))
  said <- paste(c(said, beside), collapse = ". ")
  act_outcome(if (nzchar(said)) said, changed = act$act != "reason")
}

# A reason is the user's, or none.
given_reason <- function(text) if (is.null(text) || !nzchar(trimws(text))) no_reason else trimws(text)

# The first decision without a reason is told where one can still be given.
asked_reason <- function(raw, words) {
  without <- vapply(raw$decisions, function(d) identical(d$reason, no_reason), TRUE)
  if (sum(without) == 1 && without[length(without)]) paste0(". ", words$ask_reason) else ""
}

# The plan after an act.
changed_by <- function(raw, act, words) {
  items <- if (length(act$items) > 0) as.list(as.character(unlist(act$items)))
  cases <- if (length(act$cases) > 0) as.list(as.character(unlist(act$cases)))
  of <- if (length(act$of) > 0) as.list(as.character(unlist(act$of)))
  reason <- given_reason(act$reason)
  step <- if (!identical(act$step, "plan")) act$step
  switch(act$act,
    undo = undo_decision(raw), redo = redo_decision(raw),
    back_to = {
      left <- suppressWarnings(max(as.integer(act$index), 0L))
      while (length(raw$decisions) > (if (is.na(left)) length(raw$decisions) else left)) raw <- undo_decision(raw)
      raw
    },
    reason = {
      raw$decisions[[as.integer(act$index)]]$reason <- given_reason(act$value)
      raw
    },
    control = decide(raw, "set", step = step, name = act$name, value = control_value(step, act$name, act$value), reason = reason),
    tick = decide(raw, "set", name = act$name, value = ticked(unlist(decided_plan(raw)[[act$name]]), act), reason = reason),
    set = decide(raw, "set", step = act$step, name = act$name, value = act$value, reason = reason),
    decide(raw, act$act, items = items, cases = cases, to = act$to, of = of, step = act$step, name = act$name, reason = reason)
  )
}

# Forms of a report or of the scores, with one more or one less; never none.
ticked <- function(now, act) {
  if (is.null(now)) now <- c(reports = "html", write = "csv")[[act$name]]
  left <- if (isTRUE(act$on)) union(now, act$value) else setdiff(now, act$value)
  as.list(if (length(left) > 0) left else now)
}

# Figures as SVG and the written report, from addresses that only this session knows.
register_files <- function(session, desk) {
  svg <- session$registerDataObj("figure", desk, function(desk, req) {
    key <- shiny::parseQueryString(req$QUERY_STRING)$key
    figure <- if (!is.null(key)) desk$memory[[paste("figure", key)]]
    if (is.null(figure)) {
      return(shiny::httpResponse(404L, "text/plain", "gone"))
    }
    draft <- tempfile(fileext = ".svg")
    on.exit(unlink(draft))
    save_figure(figure, draft, grDevices::svg)
    shiny::httpResponse(200L, "image/svg+xml", readBin(draft, "raw", file.size(draft)))
  })
  report <- session$registerDataObj("report", desk, function(desk, req) {
    path <- grep("report[.]html$", desk$written, value = TRUE)
    if (length(path) == 0) {
      return(shiny::httpResponse(404L, "text/plain", "gone"))
    }
    shiny::httpResponse(200L, "text/html; charset=utf-8", readBin(path, "raw", file.size(path)))
  })
  session$sendCustomMessage("files", list(svg = svg, report = report))
}

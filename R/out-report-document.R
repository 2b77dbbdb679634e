# A report as a list of blocks, the same for every form of file:
#   heading(level, text), paragraph(text, class), bullets(items), answers(questions, answers),
#   table(columns, numeric, caption, number, note), figure(figure, name, alt, number), code(lines)

report_document <- function(x, settings) in_language(settings$words$language, document_blocks(x, settings))

document_blocks <- function(x, settings) {
  analyses <- Filter(function(one) inherits(one, "sw_result"), x)
  surveys <- Filter(function(one) has_answers(one), x)
  survey <- report_survey(surveys, analyses)
  settings$wordings <- known_wordings(survey)
  settings$halves <- half_sizes(analyses)
  numbers <- new.env()
  numbers$table <- numbers$figure <- 0
  front <- front_blocks(survey, analyses, settings, numbers)
  short <- if (length(front) == 0) short_blocks(analyses, settings)
  # A page in front means a report of the whole job: its long tables go behind.
  part <- if (length(front) > 0) "main" else "all"
  body <- unlist(lapply(in_order_of_work(analyses), section_blocks, settings = settings, numbers = numbers, part = part), recursive = FALSE)
  blocks <- c(front, short, body, if (part == "main") paper_blocks(analyses, settings))
  long <- if (part == "main") unlist(lapply(in_order_of_work(analyses), long_blocks, settings = settings, numbers = numbers), recursive = FALSE)
  appendix <- appendix_blocks(analyses, surveys, survey, settings, numbers, paste(c(document_text(c(blocks, long)),
    if (isTRUE(settings$checklist)) checklist_sources), collapse = " "), left_out_said(x), long)
  blocks <- c(blocks, appendix)
  if (isTRUE(settings$checklist)) blocks <- c(blocks, checklist_blocks(blocks, analyses, survey, settings, numbers))
  list(settings = settings, blocks = blocks)
}

# The survey that a report is about: the one given, else that of its scores or confirmation; NULL where its answers are not here.
report_survey <- function(surveys, analyses) {
  held <- Filter(Negate(is.null), lapply(analyses, function(x) if (inherits(x, c("sw_scores", "sw_confirmation"))) x$parts$source))
  candidates <- c(surveys, Filter(has_answers, rev(held)))
  for (one in candidates) {
    found <- tryCatch(if (inherits(one$source, "held_source")) with_answers(one) else one, scalewort_error = function(e) NULL)
    if (!is.null(found)) return(found)
  }
  NULL
}

known_wordings <- function(survey) {
  items <- survey$codebook$items
  stats::setNames(items$wording, items$item)[!is.na(items$wording)]
}

# How many were explored and how many confirmed, where these are others.
half_sizes <- function(analyses) {
  of <- function(class) unlist(lapply(analyses, function(x) if (inherits(x, class)) x$about$n))[1]
  explored <- of("sw_exploration")
  confirmed <- of("sw_confirmation")
  whole <- people_in(analyses)
  if (is.null(explored) || is.null(confirmed) || explored + confirmed > whole) NULL else explored
}

# The first page.
front_blocks <- function(survey, analyses, settings, numbers) {
  words <- settings$words
  scales <- if (!is.null(survey) && length(analyses) > 2) front_subscales(analyses, words)
  if (is.null(scales)) {
    return(NULL)
  }
  numbers$table <- numbers$table + 1
  decided <- front_decisions(survey, analyses, words)
  know <- Filter(nzchar, vapply(front_know(survey, analyses), in_report, "", words = words))
  c(
    report_block("heading", level = 1, text = words$front$measured), report_block("bullets",
      items = front_people(survey, analyses, words)),
    report_block("table", columns = scales, numeric = rep(FALSE, length(scales)), rows = length(scales[[1]]), caption = words$front$subscales,
      number = numbers$table, note = words$front$note, part = "main"),
    if (length(decided) > 0) c(report_block("heading", level = 2, text = words$front$decided), report_block("bullets", items = decided)),
    if (length(know) > 0) c(report_block("heading", level = 2, text = words$front$know), report_block("bullets", items = know))
  )
}

# Words for the paper: a paragraph an analysis, methods and results together.
paper_blocks <- function(analyses, settings) {
  ordered <- unlist(in_order_of_work(analyses), recursive = FALSE, use.names = FALSE)
  said <- vapply(lapply(ordered, sentences), in_report, "", words = settings$words)
  titles <- vapply(ordered, function(x) say(x$about$title, settings$words$language), "")
  confirmed <- unlist(lapply(analyses, function(x) if (inherits(x, "sw_confirmation")) x$about$n))[1]
  if (any(nzchar(said))) c(report_block("heading", level = 1, text = settings$words$methods),
    if (!is.null(settings$halves)) report_block("paragraph", class = "", text = fill_in(settings$words$split, explored = settings$halves,
      confirmed = confirmed)),
    report_block("answers", questions = titles[nzchar(said)], answers = said[nzchar(said)]),
    report_block("paragraph", text = in_report(list(version_message(), seed_message(analyses)), settings$words), class = ""))
}

seed_message <- function(analyses) {
  seeds <- unique(unlist(lapply(analyses, function(x) x$about$options$seed)))
  if (length(seeds) > 0) message_of("seed_was", seeds = seeds)
}

report_block <- function(kind, ...) list(c(list(kind = kind), list(...)))

# Sections, each with the classes it holds, in the order of work.
report_sections <- list(
  screening = c("sw_screening", "sw_keying", "sw_answering", "sw_option_curves", "sw_dif"), reliability = "sw_reliability",
  exploration = c("sw_factorability", "sw_retention", "sw_exploration", "sw_solutions", "sw_stability"),
  confirmation = c("sw_confirmation", "sw_comparison", "sw_influence", "sw_power", "sw_bounds"), groups = "sw_invariance",
  validity = c("sw_validity", "sw_composites"), scores = c("sw_scores", "sw_explanation")
)

section_of <- function(result) {
  found <- names(report_sections)[vapply(report_sections, function(classes) class(result)[1] %in% classes, TRUE)]
  c(found, "other")[1]
}

in_order_of_work <- function(analyses) {
  home <- vapply(analyses, section_of, "")
  present <- intersect(c(names(report_sections), "other"), home)
  lapply(stats::setNames(present, present), function(name) unname(analyses[home == name]))
}

# The first page: what was asked, and the answer.
short_blocks <- function(analyses, settings) {
  if (length(analyses) < 2) {
    return(NULL)
  }
  ordered <- unlist(in_order_of_work(analyses), recursive = FALSE, use.names = FALSE)
  c(
    report_block("heading", level = 1, text = settings$words$in_short),
    if (!is.null(people_counted(ordered))) report_block("paragraph", text = in_report(people_counted(ordered), settings$words), class = ""),
    report_block("answers", questions = vapply(ordered, question_of, "", words = settings$words),
      answers = vapply(lapply(ordered, headline), in_report, "", words = settings$words))
  )
}

question_of <- function(result, words) {
  known <- words$questions[[class(result)[1]]]
  if (is.null(known)) say(result$about$title, words$language) else known
}

section_blocks <- function(group, settings, numbers, part) {
  name <- section_of(group[[1]])
  c(
    report_block("heading", level = 1, text = settings$words$sections[[name]]),
    unlist(lapply(group, function(one) analysis_blocks(one, settings, numbers, part)), recursive = FALSE)
  )
}

# part: "main" for answer, the figure and table that show it, and the three notes that matter most; "all" for everything there is.
analysis_blocks <- function(x, settings, numbers, part) {
  words <- sentences(x)
  notes <- report_notes(x, settings$words, if (part == "main") 3 else Inf)
  c(
    report_block("heading", level = 2, text = say(x$about$title, settings$words$language)),
    report_block("paragraph", text = in_report(headline(x), settings$words), class = "answer"), figure_blocks(x, settings, numbers, part),
    table_blocks(x, settings, numbers, part), if (length(notes) > 0) report_block("bullets", items = notes),
    if (part == "all" && length(words) > 0) c(report_block("heading", level = 3, text = settings$words$methods),
      report_block("paragraph", text = in_report(words, settings$words), class = "sentences"))
  )
}

# What the sections leave out: long tables, further figures and notes.
long_blocks <- function(group, settings, numbers) {
  unlist(lapply(group, function(x) {
    notes <- utils::tail(report_notes(x, settings$words), -3)
    own <- c(figure_blocks(x, settings, numbers, "long"), table_blocks(x, settings, numbers, "long"), if (length(notes) > 0) report_block("bullets",
      items = notes))
    if (length(own) > 0) c(report_block("heading", level = 2, text = say(x$about$title, settings$words$language)), own)
  }), recursive = FALSE)
}

# A result's tables of a part; items with their wordings.
table_blocks <- function(x, settings, numbers, part) {
  tables <- Filter(function(table) NROW(table) > 0, report_tables(x))
  main <- main_captions(x)
  shown <- switch(part, main = tables[names(tables) %in% main], long = tables[!names(tables) %in% main], tables)
  unlist(lapply(names(shown), function(caption) {
    note <- table_note(x, caption == names(shown)[1])
    table_block(with_wordings(shown[[caption]], settings$wordings), caption, note, settings, numbers, part, half_words(x, settings))
  }), recursive = FALSE)
}

# Which half a figure rests on.
half_words <- function(x, settings) {
  explored <- inherits(x, c("sw_factorability", "sw_retention", "sw_exploration", "sw_stability"))
  confirmed <- inherits(x, c("sw_confirmation", "sw_validity", "sw_composites"))
  if (is.null(settings$halves) || !(explored || confirmed)) "" else paste0(" ", if (explored) settings$words$half_explored else
    settings$words$half_confirmed)
}

# A column of wordings behind that of items.
with_wordings <- function(table, wordings) {
  at <- match("item", names(table))
  if (is.na(at) || length(wordings) == 0 || "wording" %in% names(table) || !any(table$item %in% names(wordings))) {
    return(table)
  }
  words <- unname(wordings[as.character(table$item)])
  out <- plain_frame(append(as.list(table), list(wording = ifelse(is.na(words), "", words)), at))
  # Verdicts stay codes with their words.
  for (name in c("judged", "limits", "class")) attr(out, name) <- attr(table, name)
  out
}

drawable_results <- c(
  "sw_reliability", "sw_screening", "sw_answering", "sw_option_curves", "sw_dif", "sw_retention", "sw_exploration", "sw_stability", "sw_confirmation",
  "sw_invariance", "sw_scores"
)

figure_blocks <- function(x, settings, numbers, part = "all") {
  if (!inherits(x, drawable_results)) {
    return(NULL)
  }
  figures <- report_figures(x)
  main <- names(figures) %in% main_figures(x)
  unlist(lapply(unname(switch(part, main = figures[main], long = figures[!main], figures)), function(figure) {
    numbers$figure <- numbers$figure + 1
    report_block("figure", figure = figure, name = paste0(sub("^sw_", "", class(x)[1]), "-", numbers$figure), alt = ggplot2::get_alt_text(figure),
      number = numbers$figure, caption = paste0(figure_title(figure), half_words(x, settings)))
  }), recursive = FALSE)
}

# Each figure drawn once, into a folder, for every form of the report: `file` in its block.
draw_document <- function(document, folder) {
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  at <- which(vapply(document$blocks, `[[`, "", "kind") == "figure")
  for (i in at) document$blocks[[i]]$file <- file.path(folder, paste0(document$blocks[[i]]$name, ".png"))
  save_figures(lapply(document$blocks[at], `[[`, "figure"), vapply(document$blocks[at], `[[`, "", "file"))
  document
}

document_figures <- function(document) Filter(function(b) b$kind == "figure", document$blocks)

figure_title <- function(figure) {
  title <- figure$labels$title
  if (is.null(title)) "" else as.character(title)
}

# The words of a caption's code; what is worded already stays.
caption_words <- function(caption) if (startsWith(caption, "caption_")) worded(caption) else caption

table_block <- function(table, caption, note, settings, numbers, part = "all", more = "") {
  numbers$table <- numbers$table + 1
  words <- settings$words
  whole <- table
  table <- readable(table)
  columns <- format_columns(table, settings$digits, words$verdicts, whole = whole)
  columns <- spoken_columns(columns, words)
  names(columns) <- translated(column_header(names(columns)), words$columns)
  report_block("table", columns = columns, numeric = vapply(table, is.numeric, TRUE), rows = nrow(table),
    caption = caption_words(caption), number = numbers$table,
    note = paste0(in_report(note, words), more), part = part)
}

appendix_blocks <- function(analyses, surveys, survey, settings, numbers, text, left_out, long) {
  words <- settings$words
  used <- references_in(text)
  c(
    report_block("heading", level = 1, text = words$appendix), long,
    if (!is.null(survey)) item_record(survey, settings, numbers),
    if (length(surveys) > 0) c(
      report_block("heading", level = 2, text = words$record), report_block("paragraph", text = words$record_about, class = ""),
      unlist(lapply(surveys, function(survey) table_block(log_in(survey$log, words), words$steps, "", settings, numbers)), recursive = FALSE)
    ),
    if (length(left_out) > 0) c(report_block("heading", level = 2, text = words$left_out),
      report_block("bullets", items = paste0(vapply(names(left_out), word_of, "", ".steps"), ": ",
        vapply(left_out, in_report, "", words = words)))),
    if (!is.null(settings$plan)) c(report_block("heading", level = 2, text = words$plan),
      report_block("code", lines = plan_said(settings$plan))),
    if (length(analyses) > 0) c(report_block("heading", level = 2, text = words$options),
      report_block("bullets", items = vapply(Filter(function(x) length(Filter(length, x$about$options)) > 0, analyses), function(x) {
        paste0(say(x$about$title), ": ", option_words(x$about$options), ".")
      }, ""))),
    report_block("heading", level = 2, text = words$outside), report_block("bullets", items = unlist(words$outside_about)),
    report_block("heading", level = 2, text = words$versions), report_block("paragraph", text = in_report(version_message(), words), class = ""),
    if (length(used) > 0) c(report_block("heading", level = 2, text = words$references), report_block("bullets", items = used))
  )
}

# The lines of a plan that say something; the remarks of its file are help for whoever edits it.
plan_said <- function(path) {
  lines <- readLines(path, warn = FALSE)
  lines <- sub("\\s{2,}#.*$", "", lines)
  lines[!grepl("^\\s*(#.*)?$", lines)]
}

# Every item as it was read: wording, subscale, direction, range, key and codes for missing answers; the order of waves.
item_record <- function(survey, settings, numbers) {
  items <- survey$codebook$items
  items <- items[items$role != "aside", ]
  range <- ifelse(is.na(items$lowest), "", paste(format_plain(items$lowest), settings$words$to, format_plain(items$highest)))
  table <- plain_table(item = items$item, wording = items$wording, scale = items$scale, direction = items$direction, range = range,
    key = items$answer, missing_codes = items$missing)
  table <- table[!vapply(table, function(column) all(is.na(column) | column == ""), TRUE)]
  waves <- if (length(survey$waves) > 0) paste0(settings$words$waves, ": ", front_list(survey$waves, 20, settings$words), ".") else ""
  c(report_block("heading", level = 2, text = settings$words$items), table_block(table, settings$words$items, waves, settings, numbers, "long"))
}

version_message <- function() {
  packages <- c("Rcpp", "ggplot2", "data.table")
  message_of("made_with", version = as.character(utils::packageVersion("scalewort")), r = as.character(getRversion()), date = format(Sys.Date()),
    packages = paste(packages, vapply(packages, function(p) as.character(utils::packageVersion(p)), "")), platform = R.version$platform)
}

# All words of a document.
document_text <- function(blocks) {
  paste(rapply(as.list(blocks), function(x) paste(x, collapse = " "), classes = "character", how = "unlist"), collapse = " ")
}

# Full references of the works that the text cites by author and year.
references_in <- function(text) {
  known <- utils::read.csv(report_file("references.csv"), colClasses = "character", encoding = "UTF-8")
  cited <- mapply(function(author, year) grepl(paste0(author, "( et al[.])?[^.;]{0,80}", year), text), known$author, known$year)
  sort(unique(known$reference[cited]), method = "radix")
}

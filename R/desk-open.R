# Opening the desk: on this machine alone, on a free port, behind a token in the address.

#' The whole job in a window of the browser
#'
#' Opens a page on this machine: the questionnaire with its numbers, the questions of the path with their answers, and a record of what was
#' decided. Whatever is done there is a line of the plan (`decisions`), written beside the data after every step and taken back by
#' one key; [sw_run()] or `scalewort run` on that plan gives the same tables. The data file is never written to.
#'
#' The page listens on 127.0.0.1 alone and answers only who has its address with the token. It fetches nothing from elsewhere. Slow
#' steps are worked out in a process behind, which can be stopped.
#'
#' @param x A plan (path ending in .yml or .yaml), a file of answers (a codebook and a plan are drafted beside it, or taken where
#'   they are there), a survey (its answers, codebook and a plan are written to `folder`), or nothing: the page asks for a file.
#' @param folder Where the plan, and what is brought in, are kept: for a survey, the demo, and files brought in at the page.
#' @param port The port; a free one by default.
#' @param browse Start the browser?
#' @return Nothing; it ends when the page is closed with the R session, or by Ctrl+C.
#' @section Errors: `scalewort_error_file` for a file that is not there or cannot be read; `scalewort_error_input` for a plan with faults, or
#'   where the packages shiny, bslib and callr are not installed.
#' @examples
#' if (interactive()) sw_open(sw_demo("plotholders"), folder = tempfile("desk-"))
#' @export
sw_open <- function(x = NULL, folder = ".", port = NULL, browse = interactive()) {
  check_string(folder, "folder")
  check_flag(browse, "browse")
  check_desk_packages()
  open_page(if (is.null(x)) NULL else plan_to_open(x, folder), folder, port, browse, said = message)
  invisible()
}

check_desk_packages <- function() {
  lacking <- Filter(function(name) !requireNamespace(name, quietly = TRUE), c("shiny", "bslib", "callr", "htmltools"))
  if (length(lacking) > 0) stop_input(message_of("e_desk_needs", lacking = lacking), hint = paste0("install.packages(c(", paste0("\"", lacking,
    "\"", collapse = ", "), "))"))
}

# Runs the page until it is stopped.
open_page <- function(plan, folder, port, browse, said) {
  app <- desk_app(plan, folder)
  if (is.null(port)) port <- httpuv::randomPort(host = "127.0.0.1")
  address <- paste0("http://127.0.0.1:", port, "/?token=", app$token)
  said(worded("desk_open_at", address = address))
  on.exit(stop_work(app$desk))
  start <- if (browse) function(url) utils::browseURL(address) else FALSE
  # It attaches itself to run; said aloud, that would stand between the address and the page.
  suppressPackageStartupMessages(if (!"package:shiny" %in% search()) attachNamespace("shiny"))
  shiny::runApp(app$app, port = port, host = "127.0.0.1", launch.browser = start, quiet = TRUE)
}

# list(app, token, desk): the page answers who has the token, and nobody else.
desk_app <- function(plan = NULL, folder = ".", token = new_token(), most = 50) {
  desk <- if (is.null(plan)) new.env(parent = emptyenv()) else new_desk(plan)
  desk$drafted <- attr(plan, "drafted")
  if (!is.null(plan)) remember_opened(plan)
  desk$folder <- folder
  desk$memory <- if (is.null(desk$memory)) new.env(parent = emptyenv()) else desk$memory
  ui <- function(req) {
    if (!has_token(req$QUERY_STRING, token)) {
      return(shiny::httpResponse(403L, "text/plain; charset=utf-8", paste0("403: ", worded("desk_needs_token"))))
    }
    desk_frame(desk_words(desk), desk_language(desk))
  }
  list(app = shiny::shinyApp(ui, desk_server(desk, token, most), options = list(quiet = TRUE), onStart = function() {
    former <- options(shiny.maxRequestSize = most * 1024^2, shiny.sanitize.errors = FALSE)
    shiny::onStop(function() {
      options(former)
      stop_work(desk)
    })
  }), token = token, desk = desk)
}

# 32 signs that nobody guesses: from the system, not from R's random numbers, which a seed fixes.
new_token <- function() {
  if (file.exists("/dev/urandom")) {
    source <- file("/dev/urandom", "rb", raw = TRUE)
    on.exit(close(source))
    return(paste(as.character(readBin(source, "raw", 16)), collapse = ""))
  }
  hash_of(list(Sys.time(), Sys.getpid(), tempfile(), proc.time(), Sys.getenv()))
}

# The plan that belongs to what is to be opened; drafted where there is none, with what the draft found as an attribute.
plan_to_open <- function(x, folder) {
  if (has_answers(x)) {
    return(survey_plan(x, folder))
  }
  check_string(x, "x")
  check_there(x)
  if (grepl("[.]ya?ml$", x, ignore.case = TRUE)) {
    return(x)
  }
  stem <- sub("[.](csv|tsv|txt)$", "", tools::file_path_sans_ext(x))
  plan <- paste0(stem, "-plan.yml")
  if (file.exists(plan)) {
    return(plan)
  }
  start <- write_start(x)
  structure(start$paths[2], drafted = start$codebook$found)
}

# A survey's answers, codebook and plan as files.
survey_plan <- function(survey, folder) {
  check_folder(folder)
  place <- function(name) file.path(folder, name)
  plan <- place("plan.yml")
  survey <- with_answers(survey)
  fresh <- tempfile(fileext = ".csv")
  on.exit(unlink(fresh))
  data.table::fwrite(source_everyone(survey), fresh)
  if (file.exists(plan)) {
    same <- file.exists(place("answers.csv")) && unname(tools::md5sum(fresh) == tools::md5sum(place("answers.csv")))
    if (!same) stop_file(message_of("e_folder_holds_plan", plan = plan), hint = message_of("e_give_another_folder"))
    return(plan)
  }
  write_safely(place("answers.csv"), FALSE, function(draft) file.copy(fresh, draft, overwrite = TRUE))
  sw_write(sw_codebook(as.data.frame(survey$codebook)), place("codebook.csv"))
  lines <- list(data = "answers.csv", codebook = "codebook.csv", id = survey$id, group = survey$group, wave = survey$wave)
  write_safely(plan, FALSE, function(draft) writeLines(yaml::as.yaml(Filter(length, lines)), draft))
  plan
}

# The demo's files and a plan, in a folder.
demo_plan <- function(name, folder) {
  check_choice(name, c("plotholders", "plantcare"), "name")
  check_folder(folder)
  plan <- file.path(folder, paste0(name, "-plan.yml"))
  if (file.exists(plan)) {
    return(plan)
  }
  book <- paste0(name, if (name == "plotholders") "-draft", "-codebook.csv")
  file.copy(system.file("extdata", c(paste0(name, ".csv"), book), package = "scalewort"), folder)
  lines <- list(title = if (name == "plotholders") "What a plot does for its gardener" else "What people know of plants",
    data = paste0(name, ".csv"), codebook = book, id = "id", group = "district")
  write_safely(plan, FALSE, function(draft) writeLines(yaml::as.yaml(lines), draft))
  plan
}

# A file brought in at the page: kept in the folder, with a first codebook and plan. Returns NULL, or why not.
bring_in <- function(desk, path, name) {
  kept <- file.path(desk$folder, basename(name))
  made <- character()
  tryCatch({
    if (file.exists(kept)) stop_file(message_of("e_file_there_already", kept = kept), hint = message_of("e_give_file_another"))
    file.copy(path, kept)
    made <- kept
    start <- write_start(kept)
    made <- c(kept, start$paths)
    take_plan(desk, made[3], start$codebook$found)
  }, scalewort_error = function(e) {
    # What was refused is not left behind, and may be brought again.
    unlink(made)
    cli::ansi_strip(paste(c(conditionMessage(e), e$faults), collapse = " "))
  })
}

# The plans that were opened last and are still there, the last first; kept in the user's cache.
opened_last <- function() {
  known <- if (file.exists(opened_file())) readLines(opened_file(), warn = FALSE, encoding = "UTF-8") else character()
  utils::head(known[file.exists(known)], 6)
}

opened_file <- function() file.path(tools::R_user_dir("scalewort", "cache"), "opened.txt")

# What cannot be kept is not: the desk opens all the same.
remember_opened <- function(path) {
  lines <- utils::head(unique(c(normalizePath(path), opened_last())), 6)
  try(suppressWarnings({
    dir.create(dirname(opened_file()), recursive = TRUE, showWarnings = FALSE)
    writeLines(enc2utf8(lines), opened_file(), useBytes = TRUE)
  }), silent = TRUE)
}

# drafted: what a draft found on the way, where there was one.
take_plan <- function(desk, path, drafted = NULL) {
  fresh <- new_desk(path)
  desk$drafted <- drafted
  desk$settled <- NULL
  remember_opened(path)
  for (name in setdiff(ls(fresh), "memory")) assign(name, fresh[[name]], desk)
  NULL
}

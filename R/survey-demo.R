#' Demo data
#'
#' Invented answers with planted faults, read from the files that ship with the
#' package, so that the whole path from file to report can be tried.
#'
#' `"plotholders"`: 640 allotment gardeners in two districts answer 22
#' statements (1 to 5) in four subscales: calm, craft, kinship, stewardship; 400
#' of them answer again a season later. `"plantcare"`: 500 gardeners answer a
#' quiz of 16 questions with four options. `"norms"`: means, standard deviations and reliabilities of the plotholders'
#' subscales, a table as `norms` of [sw_score()] takes it. `sw_demo_norms()` is its former name.
#'
#' @param name `"plotholders"`, `"plantcare"` or `"norms"`.
#' @param codebook `"final"`, or for plotholders `"draft"`: the codebook as first
#'   typed, which forgets to reverse one item.
#' @param wave For plotholders: `1`, `2`, or `1:2` for both (a row per person
#'   and wave).
#' @return A `sw_survey`; of `"norms"` a tibble with the columns score, mean, sd, reliability, n.
#' @section Errors: `scalewort_error_input` for an unknown name, codebook or wave.
#' @examples
#' sw_demo("plotholders")
#' sw_demo("plantcare")
#' sw_score(sw_demo("plotholders"), form = "t", norms = sw_demo("norms"))
#' @export
sw_demo <- function(name = "plotholders", codebook = "final", wave = 1) {
  check_choice(name, c("plotholders", "plantcare", "norms"), "name")
  if (name == "norms") {
    return(tibble::as_tibble(read_table(demo_file("plotholders-norms.csv"))$data))
  }
  check_choice(codebook, if (name == "plotholders") c("final", "draft") else "final", "codebook")
  book <- if (codebook == "draft") "plotholders-draft-codebook.csv" else paste0(name, "-codebook.csv")
  if (name == "plantcare") {
    return(sw_read(demo_file("plantcare.csv"), demo_file(book), id = "id", group = "district"))
  }
  if (!is.numeric(wave) || length(wave) == 0 || !all(wave %in% 1:2)) {
    stop_input(message_of("e_wave_must", wave = shown(wave)))
  }
  files <- demo_file(c("plotholders.csv", "plotholders-wave2.csv")[sort(unique(wave))])
  if (length(files) == 1) {
    return(sw_read(files, demo_file(book), id = "id", group = "district", wave = "wave"))
  }
  both <- do.call(rbind, lapply(files, function(file) read_text(file)$data))
  sw_survey(both, demo_file(book), id = "id", group = "district", wave = "wave")
}

demo_file <- function(name) system.file("extdata", name, package = "scalewort", mustWork = TRUE)

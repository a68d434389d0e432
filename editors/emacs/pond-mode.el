;;; pond-mode.el --- Ponds: colours, indentation, the language server -*- lexical-binding: t; -*-

;; Version: 0.1
;; Package-Requires: ((emacs "28.1"))

;;; Commentary:

;; (add-to-list 'load-path "…/editors/emacs")
;; (require 'pond-mode)
;; Then, in a pond, M-x eglot; `tickpond' has to be on the PATH.

;;; Code:

(defconst pond-mode-words
  '("a" "above" "activate" "after" "again" "alive" "all" "along"
    "always" "and" "angle" "any" "anywhere" "arena" "around" "as"
    "at" "attach" "attached" "because" "become" "becoming" "behavior" "below"
    "birth" "births" "blast" "body" "born" "bottom" "bounce" "box"
    "but" "by" "center" "circle" "clear" "count" "credit" "damage"
    "deactivate" "detach" "direction" "distance" "down" "drag" "drifts" "each"
    "edge" "edges" "else" "end" "ended" "ends" "enter" "entities"
    "even" "every" "expect" "facing" "falloff" "first" "fixed" "follows"
    "for" "friction" "from" "gone" "gravity" "head" "heal" "health"
    "heard" "held" "hits" "hold" "hurt" "if" "impact" "in"
    "inactive" "input" "inside" "is" "its" "keep" "keeping" "key"
    "kind" "knob" "label" "lasts" "least" "leave" "left" "let"
    "limit" "lives" "look" "looks" "maker" "makes" "margin" "message" "messages"
    "middle" "most" "mount" "move" "nearest" "never" "none" "not"
    "of" "off" "on" "once" "one" "open" "or" "origin"
    "outlives" "over" "overlapping" "owner" "part" "passes" "peak" "per"
    "place" "played" "pointer" "pond" "press" "push" "quitting" "radius"
    "random" "rate" "ray" "reach" "release" "repeat" "replace" "requests"
    "right" "ring" "rounds" "routine" "say" "self" "send" "sensor"
    "sent" "shielded" "show" "size" "solid" "spaced" "spares" "spawn"
    "spawner" "speed" "spots" "spread" "square" "state" "states" "steps"
    "straight" "tag" "tap" "tape" "text" "the" "thrust" "tick" "time"
    "times" "to" "top" "touch" "touches" "touching" "toward" "turn" "unheard"
    "until" "up" "upright" "uses" "value" "vars" "vel" "velocity"
    "view" "wait" "waiting" "wall" "watch" "wave" "weight" "weightless"
    "when" "where" "while" "widened" "with" "within" "wrap" "x"
    "y" "zone")
  "Words of the language.")

(defconst pond-mode-constants
  '("true" "false" "here" "teal" "amber" "rose" "blue" "violet"
    "lime" "sand" "grey" "white" "orange")
  "Values that have a name.")

(defvar pond-mode-syntax-table
  (let ((table (make-syntax-table)))
    (modify-syntax-entry ?/ ". 12" table)
    (modify-syntax-entry ?\n ">" table)
    (modify-syntax-entry ?\" "\"" table)
    (modify-syntax-entry ?\\ "\\" table)
    (modify-syntax-entry ?_ "w" table)
    table)
  "Comments, texts and brackets of ponds.")

(defconst pond-mode-font-lock
  `((,(concat "^\\s-*\\(?:off\\s-+\\)?\\(?:"
              (mapconcat #'identity '("kind" "spawner" "behavior" "knob" "spots" "zone" "input" "message"
    "watch" "routine" "to" "value") "\\|")
              "\\)\\s-+\\(\\sw+\\)")
     1 font-lock-function-name-face)
    (,(concat "\\_<[0-9][0-9_]*\\(?:\\.[0-9][0-9_]*\\)?\\(?:[ \t]*\\(?:%\\|\\(?:"
              (mapconcat #'identity '("per min" "turn/s" "per s" "deg/s" "rad/s" "ticks" "tick" "turn"
    "u/s2" "min" "deg" "rad" "u/s" "ms" "s" "u") "\\|")
              "\\)\\_>\\)\\)?")
     0 font-lock-constant-face)
    (,(regexp-opt pond-mode-constants 'symbols) 0 font-lock-constant-face)
    (,(regexp-opt pond-mode-words 'symbols) 0 font-lock-keyword-face))
  "What is coloured how.")

(defun pond-mode-indent-line ()
  "Indent a line by how many brackets are open before it."
  (interactive)
  (let* ((depth (save-excursion
                  (back-to-indentation)
                  (- (car (syntax-ppss)) (if (looking-at "[})]") 1 0))))
         (column (* 4 (max 0 depth))))
    (if (<= (current-column) (current-indentation))
        (indent-line-to column)
      (save-excursion (indent-line-to column)))))

;;;###autoload
(define-derived-mode pond-mode prog-mode "Pond"
  "Major mode for ponds."
  (setq-local comment-start "// ")
  (setq-local comment-end "")
  (setq-local indent-line-function #'pond-mode-indent-line)
  (setq-local indent-tabs-mode nil)
  (setq-local font-lock-defaults '(pond-mode-font-lock)))

;;;###autoload
(add-to-list 'auto-mode-alist '("\\.pond\\'" . pond-mode))

(defvar eglot-server-programs)
(with-eval-after-load 'eglot
  (add-to-list 'eglot-server-programs '(pond-mode . ("tickpond" "lsp"))))

(provide 'pond-mode)
;;; pond-mode.el ends here

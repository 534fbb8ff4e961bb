# frozen_string_literal: true

module Evrel
  module Startup
    # How far a start has come, by what is said on the serial line or stands on
    # the screen: milestones with their times, and ends that no waiting will change.
    class Course
      # What stands for each milestone, in the order of a start.
      MILESTONES = {
        firmware: /BdsDxe: (?:loading|starting|No bootable)|SeaBIOS|Booting from/,
        loader: /BdsDxe: starting|Booting from [0-9a-f]{4}:|Welcome to GRUB|EFI stub:/,
        kernel: /Linux version \d|EFI stub: Loaded|Decompressing Linux|Loading Linux/,
        root: /VFS: Mounted root|EXT4-fs \([^)]+\): mounted|Run \S+ as init process|Mounted root/,
        # The kernel may say something behind the prompt.
        login: /(?:^|\s)\S*login:\s*(?:\z|\[\s*\d+\.\d+\])/i
      }.freeze
      WORDS = { firmware: 'firmware', loader: 'loader', kernel: 'kernel', root: 'root', login: 'log-in' }.freeze
      # What a start does not come back from. The last line of it tells why.
      DEAD = /Kernel panic - not syncing: ?(.*)/
      KEY = 'Press any key to continue'
      # What GRUB says and goes on after some seconds, or a key: with the kernel, or with nothing.
      HELD = /error: ([^\n]*?)\.?\s*\n(?:[^\n]*\n)*\s*#{KEY}/
      HOLDS = 30 # seconds in which nothing moves after the key, until it is seen to have come to nothing
      MOST_KEYS = 10 # for which it waits, until it is seen to go round in a circle
      # A kernel stamps its lines (CONFIG_PRINTK_TIME); the first of them may have scrolled by between two looks at a screen.
      RUNS = Regexp.union(/Linux version \d|EFI stub: Loaded/, /^\[ *\d+\.\d{6}\] /, MILESTONES[:login])
      # An encrypted volume is opened by somebody: the prompt is the last thing that was said.
      PASSPHRASE = /(?:unlock disk|passphrase for)[^\n]*: *\z/i
      NOTHING = Regexp.union('BdsDxe: No bootable option', 'No bootable device', 'Boot failed: not a bootable disk', 'FATAL: INT18',
                             'Operating System not found', 'UEFI Interactive Shell')
      RESCUE = /\(initramfs\)|grub rescue>|grub>\s*\z|emergency mode|rescue shell|Give root password for maintenance/
      DENIED = /failed to load Boot\S+ .*: (?:Access Denied|Security Violation)/
      BEGINS = { kernel: /Linux version \d/, firmware: /BdsDxe: loading|SeaBIOS \(version/ }.freeze
      LOOPS = 3 # times that it begins until it is called a loop

      # @return [Hash{Symbol=>Float}] milestone → seconds since the start
      attr_reader :reached

      def initialize
        @reached = {}
      end

      # @param texts [Array<String>] all that was said so far, on each way
      # @param seconds [Float] since the start
      # @param still [Float] seconds in which nothing has moved
      # @return [Symbol, nil] :dead, :nothing, :rescue or :loop, where it will come no further
      def ending(texts, seconds, still: 0.0)
        texts.each { |text| pass(text, seconds) }
        return :loop if BEGINS.values.any? { |sign| most(texts, sign) >= LOOPS }
        return :dead if held?(texts) && (still > HOLDS || most(texts, KEY) > MOST_KEYS)

        { dead: DEAD, nothing: NOTHING, rescue: RESCUE }.find { |_, sign| texts.any? { |text| text.match?(sign) } }&.first
      end

      # @param texts [Array<String>] as for {#ending}
      # @return [Boolean] whether GRUB waits for a key, or has come to nothing after one
      def held?(texts) = texts.any? { |text| text.match?(HELD) } && texts.none? { |text| text.match?(RUNS) }

      # @return [Boolean] whether somebody has to open an encrypted volume
      def passphrase?(texts) = texts.any? { |text| text.match?(PASSPHRASE) }

      # @return [Symbol, nil] the last milestone
      def last = MILESTONES.keys.reverse.find { |name| @reached[name] }

      # @return [String]
      def word = last ? WORDS.fetch(last) : 'the very beginning'

      # @return [Array<Hash>] id, title and seconds (nil where it was not reached) of every milestone
      def to_a = MILESTONES.keys.map { |name| { id: name, title: WORDS.fetch(name), seconds: @reached[name]&.round(1) } }

      private

      # @return [Integer] how often it was said
      def most(texts, sign) = texts.map { |text| text.scan(sign).size }.max

      # What comes later implies what came before, whatever was said of it.
      def pass(text, seconds)
        MILESTONES.each { |name, sign| @reached[name] ||= seconds if text.match?(sign) }
        MILESTONES.each_key.take_while { |name| name != last }.each { |name| @reached[name] ||= @reached[last] } if last
      end
    end
  end
end

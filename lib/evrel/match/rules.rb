# frozen_string_literal: true

module Evrel
  module Match
    # What speaks for and against an image, beside whose it is. Each rule takes
    # an Offer, a Problem and the relation, and gives a Mark or nil. Weights only
    # matter between images that are equal in what decides (see Order).
    module Rules
      def self.mark(weight, id, state, title, detail) = Mark.new(Fact.new(id:, state:, title:, detail:), weight)

      # Causes for which the newest whole image is right, whenever it was taken.
      NEWEST = %w[drive_failed replaced rehearsal set_up].freeze

      WHOLE = lambda do |offer, _, _|
        clusters = offer.document.stored_clusters
        what = clusters.positive? ? "#{Units.count(clusters)} clusters" : 'It has to be unpacked for that'
        case offer.state
        when 'whole'
          if offer.due
            next mark(10, 'whole', :ask, 'Whole when it was checked',
                      "#{Units.span(Time.now - offer.checked_at)} ago: check it again")
          end

          mark(20, 'whole', :ok, 'Whole', "#{what} checked #{Units.span(Time.now - offer.checked_at)} ago")
        when 'damaged' then mark(-80, 'whole', :no, 'Damaged', offer.damage)
        when 'incomplete' then mark(-90, 'whole', :no, 'Not all of it is there', offer.damage)
        when 'checking' then mark(0, 'whole', :ask, 'Being checked', what)
        when 'paused' then mark(0, 'whole', :ask, 'Its check is paused', what)
        else mark(0, 'whole', :ask, 'Not checked yet', what)
        end
      end

      UNREAD = lambda do |offer, _, _|
        next if offer.document.unread.empty?

        mark(-60, 'unread', :no, 'Not all of the disk could be read',
             offer.unread || "#{Units.bytes(offer.document.unread.sum(&:last))}, when it was taken")
      end

      # What a map called free was kept too: nothing is missing, but the disk was not well.
      KEPT = lambda do |offer, _, _|
        parts = offer.document.doubtful
        next if parts.empty?

        reasons = parts.map { |part| "#{Rules.part_words(part)}: #{part['volume']['doubts'].first}" }
        mark(-3, 'kept', :ask, 'More was kept than its maps say', reasons.join('; '))
      end

      UNPROVED = lambda do |offer, _, _|
        mark(-3, 'unproved', :ask, 'Its maps were not proved', Image::Structure::UNPROVED.capitalize) if offer.document.unproved?
      end

      ASLEEP = lambda do |offer, _, _|
        parts = offer.document.asleep
        next if parts.empty?

        words = Units.list(parts.map { |part| Rules.part_words(part) })
        mark(-5, 'asleep', :ask, 'The system was hibernated', "#{words}: it wakes into what it had in memory then")
      end

      COMPLETE = lambda do |offer, problem, _|
        document = offer.document
        next if document.document['provisional'] || offer.state == 'incomplete'
        unless document.table?
          next mark(-30, 'complete', :no, 'A single volume, no disk', 'It holds no partition table, and nothing to start from')
        end

        roles = document.partitions.map { |part| part['role'] }
        # An MBR computer starts from its active partition, and needs no part of its own for that.
        missing = (document.table_kind == 'mbr' ? %w[system] : %w[startup system]) - roles
        missing -= ['system'] if roles.include?('data') && (missing == ['system'] || problem.firmware.nil?)
        if missing.empty?
          next mark(15, 'complete', :ok, 'Everything that it needs to start', Units.list(document.partitions.map do |part|
            Rules.part_words(part)
          end))
        end

        words = missing.map { |role| Table::Types.role_name(role.to_sym).downcase }
        mark(-40, 'complete', :no, "No #{words.join(' and no ')} part", 'It would not start from this image alone')
      end

      PARTS = lambda do |offer, _, _|
        parts = offer.document.not_taken
        next if parts.empty?

        words = Units.list(parts.map { |part| Rules.part_words(part) })
        mark(-4, 'parts', :ask, 'Not all parts are in it', "Left out when it was taken: #{words}")
      end

      FIRMWARE = lambda do |offer, problem, _|
        kind = offer.document.table_kind
        next if kind.nil? || problem.firmware.nil?

        fits = if problem.firmware == 'uefi'
                 kind == 'gpt'
               else
                 kind == 'mbr' || offer.document.partitions.any? do |part|
                   part['type_name'] == 'BIOS boot'
                 end
               end
        next mark(10, 'firmware', :ok, 'Fits the firmware', "#{kind.upcase} and #{problem.firmware.upcase}") if fits

        mark(-30, 'firmware', :ask, 'Made for another firmware', "#{kind.upcase}, but the computer starts by #{problem.firmware.upcase}")
      end

      TARGET = lambda do |offer, problem, _|
        next if problem.targets.nil? || offer.needs.nil? || offer.document.document['provisional']

        fitting = problem.targets.count { |bytes| bytes >= offer.needs }
        next mark(5, 'target', :ok, 'Fits an attached drive', "#{fitting} could take its #{Units.bytes(offer.needs)}") if fitting.positive?

        mark(-5, 'target', :ask, 'No attached drive is large enough', "It needs #{Units.bytes(offer.needs)} as it is")
      end

      SHELF = lambda do |offer, _, _|
        next mark(5, 'shelf', :ok, offer.where, 'Attached and readable') if offer.reachable

        mark(-5, 'shelf', :no, 'It has to be fetched', offer.where)
      end

      MOMENT = lambda do |offer, problem, _|
        gap = problem.since && Units.span((problem.since - offer.document.taken_at).abs)
        case Moment.of(offer.document.taken_at, problem)
        when :unknown then mark(0, 'moment', :ask, 'Not known if it is from before', 'The docket does not say since when')
        when :before then mark(20, 'moment', :ok, 'From before the trouble', "#{gap} of work are not in it")
        when :between
          mark(-10, 'moment', :ask, 'From the time in which it began', 'The trouble may be in it')
        else
          if NEWEST.include?(problem.cause)
            detail = offer.document.unread.any? ? 'From a drive that was failing' : 'Look whether it was still well'
            next mark(5, 'moment', :ask, 'Taken after the trouble began', detail)
          end

          mark(-40, 'moment', problem.cause == 'infected' ? :no : :ask, 'Taken after the trouble began',
               'The trouble is likely to be in it')
        end
      end

      TRIED = lambda do |offer, _, _|
        case offer.trial
        when :reached then mark(10, 'tried', :ok, 'Seen to start', 'In the emulator')
        when :failed then mark(-20, 'tried', :no, 'Did not start in the emulator', 'Look at its last lines')
        else mark(0, 'tried', :ask, 'Not yet seen to start', 'Try it in the emulator; nothing is written')
        end
      end

      RESTORED = lambda do |offer, _, _|
        mark(5, 'restored', :ok, 'Restored before', 'It was written and read back here') if offer.restored
      end

      DATE = lambda do |offer, _, _|
        next unless offer.document.document['taken_by_file_date']

        mark(-2, 'date', :ask, 'Its date is the file’s', 'Nothing inside says when it was taken; a copy may have a later date')
      end

      CLOCK = lambda do |offer, _, _|
        ahead = offer.document.taken_at - Time.now
        mark(-10, 'clock', :ask, 'Dated in the future', "By #{Units.span(ahead)}: the clock was wrong when it was taken") if ahead > 300
      end

      ALL = [WHOLE, UNREAD, KEPT, UNPROVED, ASLEEP, COMPLETE, PARTS, FIRMWARE, MOMENT, TARGET, SHELF, TRIED, RESTORED, DATE, CLOCK].freeze

      def self.part_words(part) = part['name'].to_s.empty? ? Table::Types.role_name(part['role'].to_sym) : part['name']
    end
  end
end
